<?php

declare(strict_types=1);

/*
 * How long a receipt waits for its ideas among 30 open items: php bench/ideas.php. The bare loop beside it adds up as many sums as both
 * halves of the items have, which is the least that the search must do. See docs/performance.md.
 */
use Brick\Math\BigDecimal;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Ledger\DocumentKind;
use Nelbix\Core\Ledger\Side;
use Nelbix\Core\OpenItems\OpenItem;
use Nelbix\Core\Placement\Placer;
use Nelbix\Core\Terms\DatedDiscount;
use Nelbix\Core\Terms\EarlyDiscount;

require __DIR__.'/../vendor/autoload.php';

mt_srand(20260615);
$day = Day::of('2026-06-15');
$items = [];
for ($k = 1; $k <= Placer::MOST_ITEMS; ++$k) {
    $open = 0 === $k % 7 ? -mt_rand(1_000, 90_000) : mt_rand(5_000, 900_000);
    $discount =
        $open > 0 && 1 === $k % 2
            ? new EarlyDiscount($open, $open, [
                new DatedDiscount($day->plusDays(5), BigDecimal::of(2), intdiv($open, 50)),
            ])
            : null;
    $items[] = new OpenItem(
        $k,
        Side::Receivables,
        1,
        $open > 0 ? DocumentKind::Invoice : DocumentKind::CreditNote,
        sprintf('CI-26-%05d', $k),
        1200,
        'USD',
        $open,
        $open,
        $open,
        $open,
        $day->plusDays(-40),
        $day->plusDays($k - 10),
        $discount,
    );
}
$least = $worst = [];
for ($n = 0; $n < 40; ++$n) {
    $began = hrtime(true);
    $sum = 0;
    for ($k = 0; $k < 4 << intdiv(Placer::MOST_ITEMS, 2); ++$k) {
        $sum += $k & 1023;
    }
    $least[] = (hrtime(true) - $began) / 1e6;
    // every other amount fits no set at all, which takes longest
    $amount =
        ($n % 2) + array_sum(array_map(static fn (int $k): int => $items[$k]->open, (array) array_rand($items, 6)));
    $began = hrtime(true);
    Placer::ideas(max(1, $amount), '', $items, $day);
    $worst[] = (hrtime(true) - $began) / 1e6;
}
sort($least);
sort($worst);
printf(
    "ideas among %d items: median %.1f ms, longest %.1f ms; the bare sums %.1f ms; ratio %.0f\n",
    Placer::MOST_ITEMS,
    $worst[20],
    $worst[39],
    $least[20],
    $worst[20] / $least[20],
);
