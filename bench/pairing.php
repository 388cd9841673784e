<?php

declare(strict_types=1);

/*
 * Growth of pairing from 25,000 to 100,000 rows a side by three rules, as time per doubling, and the memory of the largest.
 * No database: the rules are the work.
 */
use Brick\Math\BigDecimal;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Pairing\Row;
use Nelbix\Core\Pairing\RowPairer;
use Nelbix\Core\Pairing\Rows;
use Nelbix\Core\Pairing\Rule;

require __DIR__.'/../vendor/autoload.php';
ini_set('memory_limit', '512M');
mt_srand(20260615);

/** @return array{list<Row>, list<Row>} most pair by number, some are split, some differ, some are noise */
function sides(int $n): array
{
    $left = $right = [];
    $start = Day::of('2025-01-01');
    $days = array_map(static fn (int $k): Day => $start->plusDays($k), range(0, 520));
    for ($k = 1; $k <= $n; ++$k) {
        $amount = mt_rand(1_000, 900_000);
        $day = mt_rand(0, 500);
        $ref = ['ref' => 'R-'.$k];
        $left[] = new Row($k, $amount, $days[$day], $ref);
        $kind = $k % 20;
        if ($kind < 14) {
            $right[] = new Row($k, $amount, $days[$day + mt_rand(0, 3)], $ref);
        } elseif ($kind < 16) {
            $right[] = new Row($k, $amount + mt_rand(-50, 50), $days[$day + 1], $ref);
        } elseif ($kind < 18) {
            $right[] = new Row($k, $amount, $days[$day + 2], ['ref' => '']);
        } elseif (18 === $kind) {
            $right[] = new Row($k, intdiv($amount, 2), $days[$day], $ref);
            $right[] = new Row($n + $k, $amount - intdiv($amount, 2), $days[$day], $ref);
        } else {
            $right[] = new Row($k, mt_rand(1_000, 900_000), $days[mt_rand(0, 500)], ['ref' => 'X-'.$k]);
        }
    }

    return [$left, $right];
}

$rules = [
    new Rule(1, agree: ['ref'], percentWithin: BigDecimal::of(1), daysWithin: 5),
    new Rule(2, right: Rows::Any, agree: ['ref'], daysWithin: 5),
    new Rule(3, amountWithin: 0, daysWithin: 5, sole: true, certain: false),
];
$before = null;
$worst = 0.0;
foreach ([25_000, 50_000, 100_000] as $n) {
    [$left, $right] = sides($n);
    $best = \INF;
    for ($try = 0; $try < 3; ++$try) {
        $begun = microtime(true);
        $outcome = RowPairer::pair($left, $right, $rules);
        $best = min($best, microtime(true) - $begun);
    }
    printf(
        "%7d rows a side: %.2f s, %d pairs, %d over on the left, %s\n",
        $n,
        $best,
        count($outcome->pairs),
        count($outcome->left),
        null === $before ? '' : sprintf('%.2f times the half', $best / $before),
    );
    $worst = null === $before ? $worst : max($worst, $best / $before);
    $before = $best;
}
printf(
    "most per doubling %.2f (aim: under 2.2), memory %d MB (aim: under 512)\n",
    $worst,
    memory_get_peak_usage(true) >> 20,
);
