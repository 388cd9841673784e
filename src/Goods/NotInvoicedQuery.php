<?php

declare(strict_types=1);

namespace Nelbix\App\Goods;

use Doctrine\DBAL\Connection;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Ledger\AccountRole;

/**
 * What was received and not invoiced as of a day, by vendor and age, and line by line: what is accrued. A delivery counts from its day,
 * what took of it from its own. Source: rules.md, Matching.
 */
final readonly class NotInvoicedQuery
{
    /** Ages in days, from the delivery: up to each of these, and more. */
    public const AGES = [30, 60, 90];

    /** So many lines of one vendor stand on a page; a file has them all. */
    private const MOST = 300;

    /** Lines that had something left on the day, as l of delivery g. */
    private const LINES = <<<'SQL'
    FROM delivery g
    JOIN delivery_line l ON l.delivery_id = g.id
    JOIN party v ON v.id = g.party_id
    LEFT JOIN (
        SELECT m.delivery_line_id, SUM(m.quantity) AS quantity, SUM(m.amount) AS amount, SUM(m.amount_base) AS base
        FROM goods_move m
        WHERE m.moved_on <= :day AND (m.undone_on IS NULL OR m.undone_on > :day)
        GROUP BY m.delivery_line_id
    ) t ON t.delivery_line_id = l.id
    WHERE g.company_id = :company AND g.delivered_on <= :day AND (g.reversed_on IS NULL OR g.reversed_on > :day)
        AND (g.is_open = 1 OR g.reversed_on > :day
            OR EXISTS (SELECT 1 FROM goods_move x WHERE x.delivery_line_id = l.id AND x.moved_on > :day))
        AND l.quantity > COALESCE(t.quantity, 0)
    SQL;

    public function __construct(private Connection $db)
    {
    }

    /** @return list<array{id: int, code: string, name: string, lines: int, oldest: string, ages: list<int>, base: int}> the most first */
    public function byVendor(int $companyId, Day $asOf): array
    {
        [$a, $b, $c] = self::AGES;
        $left = 'l.amount_base - COALESCE(t.base, 0)';
        $age = 'DATEDIFF(:day, g.delivered_on)';
        $rows = $this->db->fetchAllAssociative(
            "SELECT v.id, v.code, v.name, COUNT(*) AS n, MIN(g.delivered_on) AS oldest, SUM($left) AS base, ".
                "SUM(IF($age <= $a, $left, 0)) AS a0, SUM(IF($age > $a AND $age <= $b, $left, 0)) AS a1, ".
                "SUM(IF($age > $b AND $age <= $c, $left, 0)) AS a2, SUM(IF($age > $c, $left, 0)) AS a3 ".
                self::LINES.
                ' GROUP BY v.id, v.code, v.name ORDER BY base DESC, v.code',
            ['company' => $companyId, 'day' => $asOf->iso()],
        );

        return array_map(
            static fn (array $r): array => [
                'id' => (int) $r['id'],
                'code' => (string) $r['code'],
                'name' => (string) $r['name'],
                'lines' => (int) $r['n'],
                'oldest' => (string) $r['oldest'],
                'ages' => [(int) $r['a0'], (int) $r['a1'], (int) $r['a2'], (int) $r['a3']],
                'base' => (int) $r['base'],
            ],
            $rows,
        );
    }

    /**
     * @param int|null $vendor of one; null of all, for a file
     *
     * @return list<array<string, mixed>> a row for each line, the oldest first
     */
    public function lines(int $companyId, Day $asOf, ?int $vendor): array
    {
        return $this->db->fetchAllAssociative(
            'SELECT l.id, g.id AS delivery_id, g.number, g.note_number, g.delivered_on, v.code, v.name, l.text, l.unit, l.price, '.
                'g.currency, '.
                'l.quantity - COALESCE(t.quantity, 0) AS quantity, l.amount - COALESCE(t.amount, 0) AS amount, '.
                'l.amount_base - COALESCE(t.base, 0) AS base, DATEDIFF(:day, g.delivered_on) AS age, '.
                '(SELECT o.number FROM purchase_order_line n JOIN purchase_order o ON o.id = n.order_id WHERE n.id = l.order_line_id) '.
                'AS order_number '.
                self::LINES.
                (null === $vendor ? '' : ' AND g.party_id = :vendor').
                ' ORDER BY g.delivered_on, g.id, l.position'.
                (null === $vendor ? '' : ' LIMIT '.self::MOST),
            ['company' => $companyId, 'day' => $asOf->iso(), ...null === $vendor ? [] : ['vendor' => $vendor]],
        );
    }

    /** What the accounts of received-not-invoiced hold as of the day, base minor units, in their normal sign. */
    public function ledger(int $companyId, Day $asOf): int
    {
        return -(int) $this->db->fetchOne(
            'SELECT COALESCE(SUM(l.base), 0) FROM account a JOIN journal_line l ON l.account_id = a.id '.
                'WHERE a.company_id = ? AND a.role = ? AND l.posting_date <= ?',
            [$companyId, AccountRole::ReceivedNotInvoiced->value, $asOf->iso()],
        );
    }
}
