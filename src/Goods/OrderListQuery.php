<?php

declare(strict_types=1);

namespace Nelbix\App\Goods;

use Doctrine\DBAL\Connection;
use Nelbix\App\Platform\Keyset;
use Nelbix\Core\Calendar\Day;

/** Orders, the last first, with what of each is still to come; and the same summed by vendor. */
final readonly class OrderListQuery
{
    /** So many stand on the page; a file has them all. */
    private const PAGE = 200;

    /** The lists that there are, with the SQL of each. */
    private const SHOWN = [
        'open' => 'o.closed_on IS NULL AND EXISTS (SELECT 1 FROM purchase_order_line x WHERE x.order_id = o.id '.
            'AND (x.received < x.quantity OR x.invoiced < x.received))',
        'late' => "o.closed_on IS NULL AND o.approval IN ('none', 'approved') AND EXISTS (SELECT 1 FROM purchase_order_line x ".
            'WHERE x.order_id = o.id AND x.received < x.quantity AND COALESCE(x.wanted_by, o.wanted_by) < :today)',
        'approval' => "o.closed_on IS NULL AND o.approval = 'awaiting'",
        'all' => '1 = 1',
    ];

    /** What of a line is still to come, in minor units of the order's currency. */
    private const TO_COME = 'CASE WHEN n.received >= n.quantity THEN 0 ELSE ROUND(n.amount * (n.quantity - n.received) / n.quantity) END';

    private Keyset $newest;

    public function __construct(private Connection $db)
    {
        $this->newest = new Keyset(['o.ordered_on', 'o.id'], true);
    }

    /** @return list<string> */
    public static function lists(): array
    {
        return array_keys(self::SHOWN);
    }

    /** @return array{rows: list<array<string, mixed>>, next: ?string} */
    public function page(int $companyId, string $show, Day $today, ?int $vendor, ?string $after): array
    {
        [$rows, $next] = $this->newest->page(
            $this->rows($companyId, $show, $today, $vendor, $after, self::PAGE + 1),
            self::PAGE,
        );

        return ['rows' => $rows, 'next' => $next];
    }

    /** @return \Generator<int, array<string, mixed>> all of them */
    public function each(int $companyId, string $show, Day $today, ?int $vendor): \Generator
    {
        yield from $this->newest->each(
            fn (?string $after, int $most): array => $this->rows($companyId, $show, $today, $vendor, $after, $most),
        );
    }

    /** @return list<array<string, mixed>> */
    private function rows(int $companyId, string $show, Day $today, ?int $vendor, ?string $after, int $most): array
    {
        [$older, $place] = $this->newest->after($after);
        $shown = self::SHOWN[$show] ?? self::SHOWN['open'];
        $of = self::TO_COME;

        return $this->db->fetchAllAssociative(
            <<<SQL
            SELECT {$this->newest->select()}, o.id, o.number, o.ordered_on, o.wanted_by, o.currency, o.amount, o.approval, o.closed_on,
                o.note, v.code, v.name, (SELECT u.name FROM app_user u WHERE u.id = o.created_by_id) AS by_name,
                (SELECT SUM($of) FROM purchase_order_line n WHERE n.order_id = o.id) AS to_come,
                (SELECT MIN(COALESCE(n.wanted_by, o.wanted_by)) FROM purchase_order_line n
                    WHERE n.order_id = o.id AND n.received < n.quantity) AS next_by
            FROM purchase_order o
            JOIN party v ON v.id = o.party_id
            WHERE o.company_id = :company AND (:vendor IS NULL OR o.party_id = :vendor) AND $shown$older
            ORDER BY {$this->newest->order()}
            LIMIT $most
            SQL
            ,
            ['company' => $companyId, 'vendor' => $vendor, 'today' => $today->iso(), ...$place],
        );
    }

    /** @return list<array<string, mixed>> by vendor and currency: orders, lines, value and quantity still to come, the most first */
    public function byVendor(int $companyId): array
    {
        $of = self::TO_COME;

        return $this->db->fetchAllAssociative(
            <<<SQL
            SELECT v.id, v.code, v.name, o.currency, COUNT(DISTINCT o.id) AS orders, COUNT(*) AS n_lines, SUM($of) AS to_come,
                MIN(COALESCE(n.wanted_by, o.wanted_by)) AS next_by
            FROM purchase_order o
            JOIN purchase_order_line n ON n.order_id = o.id
            JOIN party v ON v.id = o.party_id
            WHERE o.company_id = ? AND o.closed_on IS NULL AND n.received < n.quantity
            GROUP BY v.id, v.code, v.name, o.currency
            ORDER BY to_come DESC, v.code
            SQL
            ,
            [$companyId],
        );
    }

    /** @return array<string, array{int, int}> how many wait for something, and their worth in base, by name */
    public function waiting(int $companyId, Day $today): array
    {
        ['approval' => $approval, 'late' => $late] = self::SHOWN;
        $waits = [];
        foreach (
            $this->db->fetchAllNumeric(
                <<<SQL
                SELECT 'deliveries', COUNT(*), COALESCE(SUM(g.open_base), 0)
                FROM delivery g
                WHERE g.company_id = :company AND g.is_open = 1
                UNION ALL
                SELECT 'approval', COUNT(*), COALESCE(SUM(o.worth), 0)
                FROM purchase_order o
                WHERE o.company_id = :company AND $approval
                UNION ALL
                SELECT 'late', COUNT(*), COALESCE(SUM(o.worth), 0)
                FROM purchase_order o
                WHERE o.company_id = :company AND $late
                UNION ALL
                SELECT 'awaited', COUNT(DISTINCT w.document_id), COALESCE(SUM(w.open_base), 0)
                FROM goods_awaited w
                WHERE w.company_id = :company AND w.open_quantity > 0
                SQL
                ,
                ['company' => $companyId, 'today' => $today->iso()],
            ) as [$name, $count, $worth]
        ) {
            $waits[(string) $name] = [(int) $count, (int) $worth];
        }

        return $waits;
    }
}
