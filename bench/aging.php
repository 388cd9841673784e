<?php

declare(strict_types=1);

/*
 * The aging against the one SQL statement that gives the same figures: php bench/aging.php [items]. See docs/performance.md.
 */
use Nelbix\App\Close\Aging\AgingCriteria;
use Nelbix\App\Close\Aging\AgingQuery;
use Nelbix\Core\Aging\Bucketing;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Ledger\Side;

require __DIR__.'/Bench.php';

$items = (int) ($argv[1] ?? 100_000);
$bench = new Bench();
mt_srand(1);
$bench->items(
    $items,
    static fn (): array => [
        'side' => Side::Receivables,
        'party' => $bench->parties['receivables'][mt_rand(0, 199)],
        'posted' => ($p = Day::of('2025-06-01')->plusDays(mt_rand(0, 370))),
        'due' => $p->plusDays(30),
        'amount' => mt_rand(0, 19) > 0 ? mt_rand(100, 900_000) : -mt_rand(100, 90_000),
    ],
);
$aging = static fn (): array => $bench
    ->get(AgingQuery::class)
    ->lines(
        new AgingCriteria($bench->companyId, Side::Receivables, Day::of('2026-06-15'), new Bucketing([30, 60, 90])),
    );
$sql = <<<SQL
SELECT p.code, p.name, SUM(IF(i.open > 0 AND due_date >= '2026-06-15', i.open_base, 0)),
    SUM(IF(i.open > 0 AND DATEDIFF('2026-06-15', due_date) BETWEEN 1 AND 30, i.open_base, 0)),
    SUM(IF(i.open > 0 AND DATEDIFF('2026-06-15', due_date) BETWEEN 31 AND 60, i.open_base, 0)),
    SUM(IF(i.open > 0 AND DATEDIFF('2026-06-15', due_date) BETWEEN 61 AND 90, i.open_base, 0)),
    SUM(IF(i.open > 0 AND DATEDIFF('2026-06-15', due_date) > 90, i.open_base, 0)), SUM(IF(i.open < 0, i.open_base, 0)),
    SUM(i.open_base)
FROM open_item i
JOIN party p ON p.id = i.party_id
WHERE i.company_id = ? AND i.side = 'receivables' AND i.open <> 0 AND i.posting_date <= '2026-06-15'
GROUP BY p.id, p.code, p.name
ORDER BY p.code
SQL;
$bare = static fn (): array => $bench->db->fetchAllNumeric($sql, [$bench->companyId]);
Bench::say('aging over '.$items.' open items', Bench::best($aging), 'the one SQL statement', Bench::best($bare));
printf(
    "same total: %s\n",
    array_sum(array_map(static fn ($l): int => $l->row->total(), $aging())) ===
    array_sum(array_map('intval', array_column($bare(), 8)))
        ? 'yes'
        : 'NO',
);
$bench->clear();
