<?php

declare(strict_types=1);

namespace Nelbix\App\Close;

use Doctrine\DBAL\ArrayParameterType;
use Doctrine\DBAL\Connection;
use Nelbix\App\Books\OpenAsOf;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Ledger\AccountRole;
use Nelbix\Core\TieOut\AccountTie;
use Nelbix\Core\TieOut\Movement;
use Nelbix\Core\TieOut\TieOut;

/** Each control account against its open items as of a day, with what explains a difference. A few queries for the whole company. */
final readonly class TieOutQuery
{
    public function __construct(private Connection $db)
    {
    }

    /** @return list<array{account: string, name: string, role: AccountRole, tie: AccountTie}> */
    public function of(int $companyId, Day $asOf): array
    {
        $controls = [];
        foreach (
            $this->db->fetchAllAssociative(
                'SELECT id, number, name, role FROM account WHERE company_id = ? AND role IN (?) ORDER BY number',
                [$companyId, array_column(AccountRole::controls(), 'value')],
                [1 => ArrayParameterType::STRING],
            ) as $r
        ) {
            $controls[(int) $r['id']] = [
                'account' => (string) $r['number'],
                'name' => (string) $r['name'],
                'role' => AccountRole::from((string) $r['role']),
            ];
        }
        if ([] === $controls) {
            return [];
        }
        $in = implode(',', array_keys($controls));
        $ledger = $this->db->fetchAllKeyValue(
            "SELECT account_id, SUM(base) FROM journal_line WHERE account_id IN ($in) AND posting_date <= ? GROUP BY account_id",
            [$asOf->iso()],
        );
        $day = OpenAsOf::replayed();
        [$open, $join, $where] = [$day->open('_base'), $day->join(), OpenAsOf::COULD_BE];
        $items = $this->db->fetchAllKeyValue(
            <<<SQL
            SELECT i.account_id, SUM(IF(i.side = 'receivables', 1, -1) * $open)
            FROM open_item i
            $join
            WHERE i.account_id IN ($in) AND $where
            GROUP BY i.account_id
            SQL
            ,
            ['company' => $companyId, 'day' => $asOf->iso()],
        );
        // goods that came and that no invoice, return or clearing took are the items of received-not-invoiced
        $items += $this->db->fetchAllKeyValue(
            <<<SQL
            SELECT account_id, SUM(base)
            FROM (
                SELECT account_id, -amount_base AS base
                FROM delivery
                WHERE account_id IN ($in) AND delivered_on <= :day AND (reversed_on IS NULL OR reversed_on > :day)
                UNION ALL
                SELECT account_id, amount_base
                FROM goods_move
                WHERE account_id IN ($in) AND moved_on <= :day AND (undone_on IS NULL OR undone_on > :day)
            ) m
            GROUP BY account_id
            SQL
            ,
            ['day' => $asOf->iso()],
        );
        // what invoices wait for are the items of invoiced-not-received
        $items += $this->db->fetchAllKeyValue(
            <<<SQL
            SELECT account_id, SUM(base)
            FROM (
                SELECT account_id, amount_base AS base
                FROM goods_awaited
                WHERE account_id IN ($in) AND invoiced_on <= :day AND (undone_on IS NULL OR undone_on > :day)
                UNION ALL
                SELECT account_id, -amount_base
                FROM goods_arrival
                WHERE account_id IN ($in) AND moved_on <= :day AND (undone_on IS NULL OR undone_on > :day)
            ) m
            GROUP BY account_id
            SQL
            ,
            ['day' => $asOf->iso()],
        );
        // checks and cash that no deposit slip took to the bank are the items of money on hand
        $items += $this->db->fetchAllKeyValue(
            <<<SQL
            SELECT account_id, SUM(base)
            FROM (
                SELECT on_hand_account_id AS account_id, bank_base AS base
                FROM document
                WHERE on_hand_account_id IN ($in) AND posting_date <= :day
                UNION ALL
                SELECT s.account_id, -l.amount_base
                FROM deposit_slip s
                JOIN deposit_line l ON l.slip_id = s.id
                WHERE s.account_id IN ($in) AND s.deposited_on <= :day
                    AND (COALESCE(l.returned_on, s.reversed_on) IS NULL OR COALESCE(l.returned_on, s.reversed_on) > :day)
            ) m
            GROUP BY account_id
            SQL
            ,
            ['day' => $asOf->iso()],
        );
        $differing = $this->differing($companyId, $in, $asOf, $controls);
        $result = [];
        foreach ($controls as $id => $control) {
            $sign = $control['role']->normalSign();
            $result[] = [
                ...$control,
                'tie' => TieOut::of(
                    $sign * (int) ($ledger[$id] ?? 0),
                    $sign * (int) ($items[$id] ?? 0),
                    $differing[$id] ?? [],
                ),
            ];
        }

        return $result;
    }

    /**
     * Sources whose entries and items moved an account by different amounts on a day.
     *
     * @param array<int, array{account: string, name: string, role: AccountRole}> $controls
     *
     * @return array<int, list<Movement>> by account
     */
    private function differing(int $companyId, string $in, Day $asOf, array $controls): array
    {
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
            GROUP BY account_id, source, day
            HAVING SUM(ledger) <> SUM(items)
            SQL
            ,
            ['company' => $companyId, 'day' => $asOf->iso()],
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
