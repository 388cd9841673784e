<?php

declare(strict_types=1);

namespace Nelbix\App\Receivables;

use Brick\Math\BigDecimal;
use Doctrine\DBAL\Connection;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Charges\Commission;

/**
 * Commissions by salesperson: of the money that came in between two days for invoices that name one, less what settlements of that time
 * were undone, and what credit notes of that time took from what was paid before. Every event counts on its own day; what was earned
 * before stays. In the currency of the documents. Source: rules.md, Commission.
 *
 * @phpstan-type CommissionLine array{day: string, salesperson: string, code: string, name: string, invoice: string, document: int,
 *     receipt: string, money: int, net: int, percent: string, commission: int, currency: string, undone: bool}
 */
final readonly class CommissionQuery
{
    private const INVOICE = <<<'SQL'
    d.salesperson, d.commission_percent, d.number, d.id AS document_id, d.net, d.total, d.currency, p.code, p.name
    SQL;

    public function __construct(private Connection $db)
    {
    }

    /** @return list<CommissionLine> by salesperson and day */
    public function of(int $companyId, Day $from, Day $through): array
    {
        $invoices = [];
        foreach ($this->events($companyId, $from, $through) as $r) {
            $invoices[(int) $r['document_id']][] = $r;
        }
        $lines = [];
        foreach ($invoices as $events) {
            array_push($lines, ...self::lines($events, $from));
        }
        usort(
            $lines,
            static fn (array $a, array $b): int => [$a['salesperson'], $a['day'], $a['invoice'], $a['undone']] <=> [
                $b['salesperson'],
                $b['day'],
                $b['invoice'],
                $b['undone'],
            ],
        );

        return $lines;
    }

    /**
     * @param non-empty-list<array<string, mixed>> $events of one invoice, in their order
     *
     * @return list<CommissionLine> of those from the day on
     */
    private static function lines(array $events, Day $from): array
    {
        $moves = array_map(static function (array $r): array {
            // money and credits of one settlement are shared over what they paid; only the money earns a commission
            $money = Commission::moneyOf(
                (int) $r['applied'] + (int) $r['adjusted'],
                (int) $r['paid_in_all'],
                (int) $r['money_in_all'],
            );

            return [
                'money' => 1 === (int) $r['undone'] ? -$money : $money,
                'net' => (int) $r['credited_net'],
                'total' => (int) $r['credited'],
            ];
        }, $events);
        $of = $events[0];
        $changes = Commission::changes(
            (int) $of['net'],
            (int) $of['total'],
            BigDecimal::of($of['commission_percent']),
            $moves,
        );
        $lines = [];
        foreach ($events as $k => $r) {
            if (
                Day::of((string) $r['day'])->isBefore($from)
                || (0 === $moves[$k]['money'] && 0 === $changes[$k]['commission'])
            ) {
                continue;
            }
            $lines[] = [
                'day' => (string) $r['day'],
                'salesperson' => (string) $r['salesperson'],
                'code' => (string) $r['code'],
                'name' => (string) $r['name'],
                'invoice' => (string) $r['number'],
                'document' => (int) $r['document_id'],
                'receipt' => (string) $r['receipts'],
                'money' => $moves[$k]['money'],
                'net' => $changes[$k]['net'],
                'percent' => (string) $r['commission_percent'],
                'commission' => $changes[$k]['commission'],
                'currency' => (string) $r['currency'],
                'undone' => 1 === (int) $r['undone'],
            ];
        }

        return $lines;
    }

    /**
     * All that happened up to the end to invoices to which anything happened in the time; of one day credit notes first.
     *
     * @return list<array<string, mixed>>
     */
    private function events(int $companyId, Day $from, Day $through): array
    {
        $parameters = ['company' => $companyId, 'from' => $from->iso(), 'through' => $through->iso()];
        $touched = implode(
            ' UNION ',
            array_map(
                static fn (string $sql): string => 'SELECT e.document_id FROM ('.$sql.') e WHERE e.day >= :from',
                [
                    self::settled('settled_on', 0),
                    self::settled('undone_on', 1),
                    self::credited('c', 1),
                    self::credited('v', -1),
                ],
            ),
        );
        $ids = array_map(intval(...), $this->db->fetchFirstColumn($touched, $parameters));
        $found = [];
        foreach (array_chunk($ids, 1000) as $chunk) {
            $in = ' AND d.id IN ('.implode(',', $chunk).')';
            $all = implode(' UNION ALL ', [
                self::settled('settled_on', 0).$in,
                self::settled('undone_on', 1).$in,
                self::credited('c', 1).$in,
                self::credited('v', -1).$in,
            ]);
            array_push(
                $found,
                ...$this->db->fetchAllAssociative($all.' ORDER BY day, credited = 0, undone, event_id', $parameters),
            );
        }

        return $found;
    }

    /** A row for each invoice item of a settlement that was made, or undone. */
    private static function settled(string $day, int $undone): string
    {
        $invoice = self::INVOICE;

        return <<<SQL
        SELECT s.$day AS day, s.id AS event_id, $undone AS undone, $invoice, l.applied,
            COALESCE((SELECT SUM(j.amount) FROM settlement_adjustment j WHERE j.settlement_id = s.id AND j.item_id = i.id), 0)
                AS adjusted,
            (SELECT SUM(m.applied) FROM settlement_line m JOIN open_item o ON o.id = m.item_id
                WHERE m.settlement_id = s.id AND m.applied > 0)
            + COALESCE((SELECT SUM(j.amount) FROM settlement_adjustment j WHERE j.settlement_id = s.id AND j.amount < 0), 0)
                AS paid_in_all,
            -COALESCE((SELECT SUM(m.applied) FROM settlement_line m JOIN open_item o ON o.id = m.item_id
                WHERE m.settlement_id = s.id AND m.applied < 0 AND o.kind IN ('receipt', 'prepayment', 'hand_over',
                'to_prepayment', 'from_prepayment')), 0) AS money_in_all,
            (SELECT GROUP_CONCAT(DISTINCT o.number ORDER BY o.id SEPARATOR ' ') FROM settlement_line m
                JOIN open_item o ON o.id = m.item_id WHERE m.settlement_id = s.id AND m.applied < 0) AS receipts,
            0 AS credited_net, 0 AS credited
        FROM settlement s
        JOIN settlement_line l ON l.settlement_id = s.id AND l.applied > 0
        JOIN open_item i ON i.id = l.item_id
        JOIN document q ON q.id = i.document_id
        JOIN document d ON d.id = IF(q.kind = 'claim', q.against_id, q.id) AND d.salesperson <> '' AND d.commission_percent > 0
            AND d.kind IN ('invoice', 'debit_note')
        JOIN party p ON p.id = i.party_id
        WHERE s.company_id = :company AND s.side = 'receivables' AND s.$day <= :through
        SQL;
    }

    /** A row for each credit note of an invoice (c), or for its reversal (v), which takes it back. */
    private static function credited(string $of, int $sign): string
    {
        $invoice = self::INVOICE;
        $reversal = 'v' === $of ? 'JOIN document v ON v.reverses_id = c.id' : '';

        return <<<SQL
        SELECT $of.posting_date AS day, $of.id AS event_id, 0 AS undone, $invoice, 0 AS applied, 0 AS adjusted, 0 AS paid_in_all,
            0 AS money_in_all, $of.number AS receipts, $sign * c.net AS credited_net, $sign * c.total AS credited
        FROM document c
        $reversal
        JOIN document d ON d.id = c.against_id AND d.salesperson <> '' AND d.commission_percent > 0
            AND d.kind IN ('invoice', 'debit_note')
        JOIN party p ON p.id = d.party_id
        WHERE c.company_id = :company AND c.side = 'receivables' AND c.kind = 'credit_note' AND c.state IN ('posted', 'reversed')
            AND c.reverses_id IS NULL AND $of.posting_date <= :through
        SQL;
    }
}
