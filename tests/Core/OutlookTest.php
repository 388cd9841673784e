<?php

declare(strict_types=1);

namespace Nelbix\Tests\Core;

use Nelbix\Core\Aging\CashFlow;
use Nelbix\Core\Aging\CashOutlook;
use Nelbix\Core\Aging\CashWeek;
use Nelbix\Core\Aging\DueNet;
use Nelbix\Core\Aging\Lateness;
use Nelbix\Core\Calendar\Day;
use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\TestCase;

/** Money by week. Quantiles: R 4.2, quantile(rep(days, amounts), c(.25, .5, .75), type = 1). Weeks: ISO 8601. The rest: common practice. */
final class OutlookTest extends TestCase
{
    /** @return iterable<string, array{array<int, int>, array{int, int, int}}> */
    public static function quantiles(): iterable
    {
        yield 'five' => [[-5 => 100, 0 => 300, 3 => 200, 10 => 300, 30 => 100], [0, 3, 10]];
        yield 'half of it early' => [[-38 => 5000, -3 => 2500, 7 => 2500], [-38, -38, -3]];
        yield 'on the quarter' => [[1 => 1, 2 => 3], [1, 2, 2]];
        yield 'on the half' => [[-4 => 50, 12 => 50], [-4, -4, 12]];
        yield 'one' => [[0 => 7], [0, 0, 0]];
        yield 'unsorted' => [[6 => 2, -22 => 13, 5 => 7, -4 => 40], [-4, -4, -4]];
    }

    /**
     * @param array<int, int> $paid
     * @param array{int, int, int} $expected
     */
    #[DataProvider('quantiles')]
    public function testLatenessIsWeighedByAmount(array $paid, array $expected): void
    {
        $of = Lateness::of($paid, 3) ?? self::fail();
        self::assertSame($expected, [$of->early, $of->usual, $of->late]);
        self::assertNull(Lateness::of($paid, 2), 'two payments say nothing');
    }

    public function testNothingIsExpectedBeforeTheDay(): void
    {
        $today = Day::of('2026-06-15');
        $of = new Lateness(-5, 3, 20, 9);
        $iso = static fn (array $days): array => array_map(static fn (Day $d): string => $d->iso(), array_values($days));
        self::assertSame(['2026-06-25', '2026-07-03', '2026-07-20'], $iso($of->after(Day::of('2026-06-30'), $today)));
        self::assertSame(['2026-06-15', '2026-06-15', '2026-06-21'], $iso($of->after(Day::of('2026-06-01'), $today)));
        // a promise is for what is over
        $promised = Day::of('2026-06-24');
        self::assertSame(
            ['2026-06-24', '2026-06-24', '2026-07-11'],
            $iso($of->after(Day::of('2026-06-01'), $today, $promised)),
        );
        self::assertSame(
            ['2026-06-25', '2026-07-03', '2026-07-20'],
            $iso($of->after(Day::of('2026-06-30'), $today, $promised)),
        );
    }

    public function testCreditsLowerWhatIsDueFirst(): void
    {
        self::assertSame(['a' => 0, 'b' => 150, 'c' => 300], DueNet::of(['a' => 100, 'b' => 200, 'c' => 300], 150));
        self::assertSame(['a' => 0, 'b' => 0], DueNet::of(['a' => 100, 'b' => 200], 999));
        self::assertSame(['a' => 100], DueNet::of(['a' => 100], 0));
    }

    public function testWeeksRunFromMondayToSunday(): void
    {
        $wednesday = Day::of('2026-06-17');
        $weeks = CashOutlook::of(1000, $wednesday, 2, [
            new CashFlow('in', 500, Day::of('2026-06-21')),
            new CashFlow('in', 70, Day::of('2026-06-22')),
            new CashFlow('out', -300, Day::of('2026-06-01')),
            new CashFlow('out', -1, Day::of('2026-06-29')),
            new CashFlow('in', 40, Day::of('2026-06-28'), Day::of('2026-06-21'), Day::of('2026-06-29')),
        ]);
        self::assertSame(
            [
                ['2026-06-17', '2026-06-21', ['in' => 500, 'out' => -300], 1200, 1200, 1240],
                ['2026-06-22', '2026-06-28', ['in' => 110], 1270, 1310, 1310],
            ],
            array_map(
                static fn (CashWeek $w): array => [
                    $w->from->iso(),
                    $w->to->iso(),
                    $w->sums,
                    $w->low,
                    $w->usual,
                    $w->high,
                ],
                $weeks,
            ),
        );
    }

    /** What is left is what was there and what moved; the range holds the likely balance, and closes once all has moved. */
    public function testTheRangeHoldsTheLikelyBalance(): void
    {
        mt_srand(15);
        $today = Day::of('2026-06-17');
        for ($run = 0; $run < 60; ++$run) {
            $flows = [];
            $opening = mt_rand(-100_000, 100_000);
            $sum = $opening;
            for ($n = mt_rand(0, 40); $n > 0; --$n) {
                $early = $today->plusDays(mt_rand(-20, 40));
                $usual = $early->plusDays(mt_rand(0, 15));
                $flows[] = $f = new CashFlow(
                    ['in', 'out', 'run'][$n % 3],
                    mt_rand(-5000, 5000),
                    $usual,
                    $early,
                    $usual->plusDays(mt_rand(0, 15)),
                );
                $sum += $f->amount;
            }
            $balance = $opening;
            foreach (CashOutlook::of($opening, $today, 12, $flows) as $w) {
                $balance += array_sum($w->sums);
                self::assertSame($balance, $w->usual);
                self::assertLessThanOrEqual($w->usual, $w->low);
                self::assertGreaterThanOrEqual($w->usual, $w->high);
            }
            self::assertSame([$sum, $sum, $sum], [$w->low, $w->usual, $w->high]);
        }
    }
}
