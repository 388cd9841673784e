<?php

declare(strict_types=1);

namespace Nelbix\App\Close\TieOut;

use Doctrine\DBAL\Connection;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Ledger\AccountRole;
use Nelbix\Core\TieOut\Movement;

/** What moved control accounts, by its entries on one hand and by its items on the other. */
final readonly class AccountMovements
{
    public function __construct(private Connection $db)
    {
    }

    /**
     * Sources whose entries and items moved an account by different amounts on a day.
     *
     * @param array<int, array{account: string, name: string, role: AccountRole}> $controls by account id
     * @param Day|null $from only those of days from this one on
     *
     * @return array<int, list<Movement>> by account
     */
    public function differing(int $companyId, array $controls, ?Day $from, Day $asOf): array
    {
        $in = implode(',', array_keys($controls));
        $since = null === $from ? '' : 'WHERE day >= :from';
        $side = "IF(i.side = 'receivables', 1, -1)";
        $rows = $this->db->fetchAllAssociative(
            <<<SQL
            SELECT account_id, source, day, SUM(ledger) AS ledger, SUM(items) AS items, MAX(entry) AS entry,
                SUM(ledger <> 0 OR entry IS NOT NULL) AS entries, SUM(entry IS NULL) AS moved
            FROM (
                SELECT l.account_id,
                    IF(e.source_id IS NULL, CONCAT('entry ', e.id), CONCAT(e.source_kind, ' ', e.source_id)) AS source,
                    l.posting_date AS day, l.base AS ledger, 0 AS items, e.id AS entry
                FROM journal_line l
                JOIN journal_entry e ON e.id = l.entry_id
                WHERE l.account_id IN ($in) AND l.posting_date <= :day
                UNION ALL
                SELECT i.account_id, CONCAT('document ', i.document_id), i.posting_date, 0, $side * i.original_base, NULL
                FROM open_item i
                WHERE i.account_id IN ($in) AND i.posting_date <= :day
                UNION ALL
                SELECT i.account_id, CONCAT('settlement ', s.id), s.settled_on, 0, -$side * l.applied_base, NULL
                FROM settlement s
                JOIN settlement_line l ON l.settlement_id = s.id
                JOIN open_item i ON i.id = l.item_id
                WHERE s.company_id = :company AND s.settled_on <= :day AND i.account_id IN ($in)
                UNION ALL
                SELECT i.account_id, CONCAT('settlement ', s.id), s.undone_on, 0, $side * l.applied_base, NULL
                FROM settlement s
                JOIN settlement_line l ON l.settlement_id = s.id
                JOIN open_item i ON i.id = l.item_id
                WHERE s.company_id = :company AND s.undone_on <= :day AND i.account_id IN ($in)
                UNION ALL
                SELECT account_id, CONCAT('delivery ', id), delivered_on, 0, -amount_base, NULL
                FROM delivery
                WHERE account_id IN ($in) AND delivered_on <= :day
                UNION ALL
                SELECT account_id, CONCAT('delivery ', id), reversed_on, 0, amount_base, NULL
                FROM delivery
                WHERE account_id IN ($in) AND reversed_on <= :day
                UNION ALL
                SELECT account_id, IF(slip_id IS NULL, CONCAT('document ', document_id), CONCAT('goods_slip ', slip_id)), moved_on, 0,
                    amount_base, NULL
                FROM goods_move
                WHERE account_id IN ($in) AND moved_on <= :day
                UNION ALL
                SELECT m.account_id, IF(m.slip_id IS NULL, CONCAT('document ', d.reversed_by_id), CONCAT('goods_slip ', m.slip_id)),
                    m.undone_on, 0, -m.amount_base, NULL
                FROM goods_move m
                LEFT JOIN document d ON d.id = m.document_id
                WHERE m.account_id IN ($in) AND m.undone_on <= :day
                UNION ALL
                SELECT account_id, CONCAT('document ', document_id), invoiced_on, 0, amount_base, NULL
                FROM goods_awaited
                WHERE account_id IN ($in) AND invoiced_on <= :day
                UNION ALL
                SELECT w.account_id, CONCAT('document ', d.reversed_by_id), w.undone_on, 0, -w.amount_base, NULL
                FROM goods_awaited w
                JOIN document d ON d.id = w.document_id
                WHERE w.account_id IN ($in) AND w.undone_on <= :day
                UNION ALL
                SELECT account_id, CONCAT('goods_slip ', slip_id), moved_on, 0, -amount_base, NULL
                FROM goods_arrival
                WHERE account_id IN ($in) AND moved_on <= :day
                UNION ALL
                SELECT account_id, CONCAT('goods_slip ', slip_id), undone_on, 0, amount_base, NULL
                FROM goods_arrival
                WHERE account_id IN ($in) AND undone_on <= :day
                UNION ALL
                SELECT on_hand_account_id, CONCAT('document ', id), posting_date, 0, bank_base, NULL
                FROM document
                WHERE on_hand_account_id IN ($in) AND posting_date <= :day
                UNION ALL
                SELECT s.account_id, CONCAT('deposit ', s.id), s.deposited_on, 0, -l.amount_base, NULL
                FROM deposit_slip s
                JOIN deposit_line l ON l.slip_id = s.id
                WHERE s.account_id IN ($in) AND s.deposited_on <= :day
                UNION ALL
                SELECT s.account_id, CONCAT('deposit ', s.id), COALESCE(l.returned_on, s.reversed_on), 0, l.amount_base, NULL
                FROM deposit_slip s
                JOIN deposit_line l ON l.slip_id = s.id
                WHERE s.account_id IN ($in) AND COALESCE(l.returned_on, s.reversed_on) <= :day
            ) m
            $since
            GROUP BY account_id, source, day
            HAVING SUM(ledger) <> SUM(items)
            SQL
            ,
            ['company' => $companyId, 'day' => $asOf->iso()] + (null === $from ? [] : ['from' => $from->iso()]),
        );
        $entries = [];
        $ids = array_filter(array_map(static fn (array $r): int => (int) $r['entry'], $rows));
        if ([] !== $ids) {
            $entries = $this->db->fetchAllAssociativeIndexed(
                <<<'SQL'
                SELECT e.id, e.number, e.bypass, e.text, u.name
                FROM journal_entry e
                JOIN app_user u ON u.id = e.created_by_id
                WHERE e.id IN (
                SQL
                .
                    implode(',', $ids).
                    ')',
            );
        }
        $movements = [];
        foreach ($rows as $r) {
            $account = (int) $r['account_id'];
            $sign = $controls[$account]['role']->normalSign();
            $entry = $entries[(int) $r['entry']] ?? null;
            $movements[$account][] = new Movement(
                (string) ($entry['number'] ?? $this->nameOf((string) $r['source'])),
                (string) $r['day'],
                $sign * (int) $r['ledger'],
                $sign * (int) $r['items'],
                (bool) ($entry['bypass'] ?? false),
                (string) ($entry['text'] ?? ''),
                (string) ($entry['name'] ?? ''),
                null !== $entry,
                (int) $r['moved'] > 0,
            );
        }

        return $movements;
    }

    private function nameOf(string $source): string
    {
        [$kind, $id] = explode(' ', $source);

        return match ($kind) {
            'document', 'delivery', 'goods_slip' => (string) $this->db->fetchOne(
                "SELECT number FROM $kind WHERE id = ?",
                [(int) $id],
            ),
            'deposit' => (string) $this->db->fetchOne('SELECT number FROM deposit_slip WHERE id = ?', [(int) $id]),
            default => $source,
        };
    }
}
