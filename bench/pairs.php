<?php

declare(strict_types=1);

/*
 * How long the pairs of 20,000 credits take over 2,000 customers with ten invoices each: php bench/pairs.php. The bare loop beside it joins
 * the same amounts by a hash, which is the least that finding equal amounts must do. See docs/performance.md.
 */
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Ledger\DocumentKind;
use Nelbix\Core\Ledger\Side;
use Nelbix\Core\OpenItems\OpenItem;
use Nelbix\Core\Placement\Pairer;

require __DIR__.'/../vendor/autoload.php';

mt_srand(20260615);
$day = Day::of('2026-06-15');
$item = static fn (int $id, int $party, int $open): OpenItem => new OpenItem(
    $id,
    Side::Receivables,
    $party,
    $open > 0 ? DocumentKind::Invoice : DocumentKind::Receipt,
    sprintf('CI-26-%05d', $id),
    1200,
    'USD',
    $open,
    $open,
    $open,
    $open,
    $day->plusDays(-40),
    $day->plusDays(-10),
    null,
    $open > 0 ? null : $day->plusDays(-5),
);
$parties = [];
$id = 0;
for ($party = 0; $party < 2000; ++$party) {
    for ($k = 0; $k < 10; ++$k) {
        $open = mt_rand(1_000, 900_000);
        $parties[$party][] = $item(++$id, $party, $open);
        // nine of ten fit just one invoice, the others none
        $parties[$party][] = $item(++$id, $party, 0 === $k % 10 ? -mt_rand(1_000, 900_000) : -$open);
    }
}
$began = hrtime(true);
$joined = 0;
foreach ($parties as $items) {
    $by = [];
    foreach ($items as $i) {
        if ($i->open > 0) {
            $by[$i->open][] = $i->id;
        }
    }
    foreach ($items as $i) {
        $joined += $i->open < 0 ? count($by[-$i->open] ?? []) : 0;
    }
}
$bare = (hrtime(true) - $began) / 1e6;
$began = hrtime(true);
$found = 0;
foreach ($parties as $items) {
    $found += count(Pairer::of($items, []));
}
$took = (hrtime(true) - $began) / 1e6;
printf(
    "bare hash join %.0f ms for %d; pairs %.0f ms for %d; ratio %.1f\n",
    $bare,
    $joined,
    $took,
    $found,
    $took / $bare,
);
