<?php

declare(strict_types=1);

namespace Nelbix\App\Money;

use Doctrine\DBAL\Connection;
use Nelbix\App\Platform\Desk;
use Nelbix\App\Platform\WaitingLine;
use Nelbix\App\Platform\Waits;
use Nelbix\Core\Ledger\Side;

/** Money that is placed on nothing yet, and money that was taken back of late: what it had settled is owed again. */
final readonly class WaitingMoney implements Waits
{
    /** So long money that was taken back stands on the page. */
    private const DAYS_BACK = 30;

    /** By side and name: place, what waits, what one does. */
    private const LINES = [
        'payables' => [
            'unapplied' => [80, 'payments are unapplied', 'See them'],
            'prepayments' => [82, 'vendor prepayments wait for an invoice', 'See them'],
            'taken_back' => [84, 'payments were voided or reversed within 30 days', 'See what is owed again'],
        ],
        'receivables' => [
            'unapplied' => [30, 'receipts are unapplied', 'See them'],
            'on_hand' => [31, 'receipts wait for a deposit slip', 'Take them to the bank'],
            'prepayments' => [32, 'customer prepayments wait for an invoice', 'See them'],
            'unidentified' => [33, 'unidentified receipts wait to be handed over', 'Hand over'],
            'claims_awaiting' => [35, 'write-offs await approval', 'Decide'],
            'claims_due' => [36, 'claims of yours are to be looked at again', 'Look through them'],
            'taken_back' => [34, 'receipts were bounced or reversed within 30 days', 'See what is owed again'],
        ],
    ];

    public function __construct(private Connection $db)
    {
    }

    public function lines(Desk $desk): iterable
    {
        $since = $desk->today->plusDays(-self::DAYS_BACK)->iso();
        $found = $this->found($desk, $since);
        foreach (self::LINES as $side => $lines) {
            if (!$desk->sees(Side::from($side))) {
                continue;
            }
            $kind = 'payables' === $side ? 'payment' : 'receipt';
            foreach ($lines as $name => [$place, $text, $do]) {
                [$count, $amount] = $found[$side][$name] ?? [0, 0];
                yield new WaitingLine(
                    'payables' === $side ? WaitingLine::PAYABLES : WaitingLine::RECEIVABLES,
                    $place,
                    $name.'_'.$side,
                    $text,
                    $count,
                    $amount,
                    match ($name) {
                        'taken_back' => 'documents',
                        'claims_awaiting', 'claims_due' => 'claims',
                        'on_hand' => 'on_hand',
                        default => 'items',
                    },
                    match ($name) {
                        'taken_back' => ['side' => $side, 'state' => 'taken_back', 'kind' => $kind, 'from' => $since],
                        'claims_awaiting', 'claims_due', 'on_hand' => [],
                        default => ['side' => $side, 'only' => $name],
                    },
                    $do,
                );
            }
        }
    }

    /** @return array<string, array<string, array{int, int}>> count and amount in base currency, by side and name */
    private function found(Desk $desk, string $since): array
    {
        $found = [];
        $rows = $this->db->iterateNumeric(
            <<<'SQL'
            SELECT i.side, CASE WHEN a.role LIKE '%\_prepayments' THEN 'prepayments' WHEN a.role = 'unidentified_receipts'
                THEN 'unidentified' ELSE 'unapplied' END, COUNT(*), -SUM(i.open_base)
            FROM open_item i
            JOIN account a ON a.id = i.account_id
            WHERE i.company_id = :company AND i.side IN ('payables', 'receivables') AND i.open < 0
                AND (i.kind IN ('receipt', 'payment', 'hand_over', 'from_prepayment') OR a.role LIKE '%\_prepayments')
            GROUP BY 1, 2
            UNION ALL
            SELECT side, 'taken_back', COUNT(*), SUM(total_base)
            FROM document
            WHERE company_id = :company AND side IN ('payables', 'receivables') AND state = 'reversed' AND posting_date >= :since
                AND kind = IF(side = 'payables', 'payment', 'receipt') AND reverses_id IS NOT NULL
            GROUP BY side
            UNION ALL
            SELECT 'receivables', IF(c.state = 'awaiting', 'claims_awaiting', 'claims_due'), COUNT(*), SUM(i.open_base)
            FROM claim c
            JOIN open_item i ON i.id = c.item_id AND i.open <> 0
            JOIN document d ON d.id = c.document_id AND d.state = 'posted'
            WHERE c.company_id = :company AND (c.state = 'awaiting' OR (c.person_id = :me AND c.follow_up_on <= :day))
            GROUP BY 2
            UNION ALL
            SELECT 'receivables', 'on_hand', COUNT(*), SUM(d.bank_base)
            FROM account a
            JOIN document d ON d.on_hand_account_id = a.id AND d.state = 'posted'
            WHERE a.company_id = :company AND a.role = 'money_on_hand' AND NOT EXISTS (
                SELECT 1
                FROM deposit_line l
                JOIN deposit_slip s ON s.id = l.slip_id AND s.reversed_on IS NULL
                WHERE l.document_id = d.id AND l.returned_on IS NULL
            )
            SQL
            ,
            [
                'company' => $desk->id(),
                'since' => $since,
                'me' => $desk->actor->userId,
                'day' => $desk->today->iso(),
            ],
        );
        foreach ($rows as [$side, $name, $count, $amount]) {
            $found[(string) $side][(string) $name] = [(int) $count, abs((int) $amount)];
        }

        return $found;
    }
}
