<?php

declare(strict_types=1);

namespace Nelbix\App\Close\TieOut;

use Doctrine\DBAL\Connection;
use Nelbix\App\Books\OpenAsOf;
use Nelbix\Core\Calendar\Day;

/**
 * The items of control accounts as of a day, in ledger sign: open items of a party ledger; goods that came and that no invoice, return or
 * clearing took; what invoices wait for; checks and cash that no deposit slip took to the bank.
 */
final readonly class ControlItems
{
    private const GOODS = [
        // received-not-invoiced, by delivery
        <<<'SQL'
        SELECT account_id, 'delivery' AS kind, id, -amount_base AS base
        FROM delivery
        WHERE account_id IN (IN) AND delivered_on <= :day AND (reversed_on IS NULL OR reversed_on > :day)
        SQL,
        <<<'SQL'
        SELECT m.account_id, 'delivery', l.delivery_id, m.amount_base
        FROM goods_move m
        JOIN delivery_line l ON l.id = m.delivery_line_id
        WHERE m.account_id IN (IN) AND m.moved_on <= :day AND (m.undone_on IS NULL OR m.undone_on > :day)
        SQL,
        // invoiced-not-received, by invoice
        <<<'SQL'
        SELECT account_id, 'document', document_id, amount_base
        FROM goods_awaited
        WHERE account_id IN (IN) AND invoiced_on <= :day AND (undone_on IS NULL OR undone_on > :day)
        SQL,
        <<<'SQL'
        SELECT a.account_id, 'document', w.document_id, -a.amount_base
        FROM goods_arrival a
        JOIN goods_awaited w ON w.id = a.awaited_id
        WHERE a.account_id IN (IN) AND a.moved_on <= :day AND (a.undone_on IS NULL OR a.undone_on > :day)
        SQL,
        // money on hand, by receipt
        <<<'SQL'
        SELECT on_hand_account_id, 'document', id, bank_base
        FROM document
        WHERE on_hand_account_id IN (IN) AND posting_date <= :day
        SQL,
        <<<'SQL'
        SELECT s.account_id, 'document', l.document_id, -l.amount_base
        FROM deposit_slip s
        JOIN deposit_line l ON l.slip_id = s.id
        WHERE s.account_id IN (IN) AND s.deposited_on <= :day
            AND (COALESCE(l.returned_on, s.reversed_on) IS NULL OR COALESCE(l.returned_on, s.reversed_on) > :day)
        SQL,
    ];

    public function __construct(private Connection $db)
    {
    }

    /**
     * @param list<int> $accounts
     *
     * @return array<int, int> base minor units in ledger sign, by account
     */
    public function of(int $companyId, array $accounts, Day $asOf): array
    {
        $in = implode(',', $accounts);
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
        $goods = self::goods($in);
        $items += $this->db->fetchAllKeyValue("SELECT account_id, SUM(base) FROM ($goods) g GROUP BY account_id", [
            'day' => $asOf->iso(),
        ]);

        return array_map('intval', $items);
    }

    /**
     * The same item by item, as SQL that gives: account_id, number, their_number, kind, party_id, party, party_name, due_date, currency,
     * open, base; needs :company, :day. An item that is open at nothing in base and otherwise is none.
     */
    public static function rows(int ...$accounts): string
    {
        $day = OpenAsOf::replayed();
        [$open, $base, $join, $where] = [$day->open(), $day->open('_base'), $day->join(), $day->where()];
        $in = implode(',', $accounts);
        $goods = self::goods($in);

        return <<<SQL
        SELECT i.account_id, i.number, d.their_number, i.kind, p.id AS party_id, p.code AS party, p.name AS party_name,
            i.due_date, i.currency, $open AS open,
            IF(i.side = 'receivables', 1, -1) * $base AS base
        FROM open_item i
        JOIN document d ON d.id = i.document_id
        JOIN party p ON p.id = i.party_id
        $join
        WHERE i.company_id = :company AND i.account_id IN ($in) AND $where
        UNION ALL
        SELECT g.account_id, COALESCE(d.number, v.number), COALESCE(d.their_number, v.note_number),
            COALESCE(d.kind, 'delivery'), p.id, p.code, p.name,
            COALESCE(d.due_date, v.delivered_on), '', 0, g.base
        FROM (SELECT account_id, kind, id, SUM(base) AS base FROM ($goods) x
            GROUP BY account_id, kind, id HAVING SUM(base) <> 0) g
        LEFT JOIN document d ON g.kind = 'document' AND d.id = g.id
        LEFT JOIN delivery v ON g.kind = 'delivery' AND v.id = g.id
        JOIN party p ON p.id = COALESCE(d.party_id, v.party_id)
        SQL;
    }

    private static function goods(string $in): string
    {
        return str_replace('(IN)', "($in)", implode("\nUNION ALL\n", self::GOODS));
    }
}
