<?php

declare(strict_types=1);

namespace Nelbix\Tests\Core;

use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Calendar\PeriodPlan;
use Nelbix\Core\Refused;
use PHPUnit\Framework\TestCase;

/** The periods of a year. Source: common practice; 52-53-week years as in 26 CFR 1.441-2 (the same weekday nearest to the month's end). */
final class PeriodPlanTest extends TestCase
{
    public function testTwelveCalendarMonthsOfAnyYear(): void
    {
        $plan = PeriodPlan::of(Day::of('2027-07-01'), Day::of('2028-06-30'), 'months');
        self::assertCount(12, $plan);
        self::assertSame(['2027-07-01', '2027-07-31'], [$plan[0][0]->iso(), $plan[0][1]->iso()]);
        self::assertSame(['2028-02-01', '2028-02-29'], [$plan[7][0]->iso(), $plan[7][1]->iso()]);
        self::assertSame('2028-06-30', $plan[11][1]->iso());
        // after a year of weeks the first month takes what that one left
        $after = PeriodPlan::of(Day::of('2028-12-30'), Day::of('2029-12-31'), 'months');
        self::assertSame(
            ['2028-12-30', '2029-01-31', '2029-02-01'],
            [$after[0][0]->iso(), $after[0][1]->iso(), $after[1][0]->iso()],
        );
    }

    /** Year after year: whole weeks, no gap, the same weekday at the end, within three days of the year's end, 52 or 53 weeks. */
    public function testYearsOfWeeksStayNearTheirYear(): void
    {
        foreach (['445' => [4, 4, 5], '454' => [4, 5, 4], '544' => [5, 4, 4]] as $pattern => $weeks) {
            $first = Day::of('2027-01-01');
            $long = 0;
            for ($year = 2027; $year < 2127; ++$year) {
                $end = Day::ymd($year, 12, 31);
                $plan = PeriodPlan::of($first, $end, (string) $pattern);
                $total = 0;
                foreach ($plan as $n => [$from, $through]) {
                    self::assertTrue($from->equals($first), 'no gap');
                    $days = $from->daysUntil($through) + 1;
                    self::assertSame($weeks[$n % 3] * 7 + (11 === $n ? $days - 7 * $weeks[2] : 0), $days);
                    $total += $days;
                    $first = $through->plusDays(1);
                }
                self::assertContains($total, [364, 371]);
                $long += 371 === $total ? 1 : 0;
                self::assertLessThanOrEqual(3, abs($plan[11][1]->daysUntil($end)), (string) $year);
                self::assertSame(
                    $plan[0][0]
                        ->plusDays(-1)
                        ->dateTime()
                        ->format('N'),
                    $plan[11][1]->dateTime()->format('N'),
                );
            }
            // a year has 365.2425 days, so in a hundred years about 17.75 have 53 weeks
            self::assertContains($long, [17, 18]);
        }
    }

    public function testWhatIsNoYearIsRefused(): void
    {
        foreach (
            [
                ['2027-02-01', '2027-12-31', '445'],
                ['2026-06-01', '2027-12-31', 'months'],
                ['2027-01-01', '2027-12-31', '44'],
            ] as $a
        ) {
            try {
                PeriodPlan::of(Day::of($a[0]), Day::of($a[1]), $a[2]);
                self::fail(implode(' ', $a));
            } catch (Refused $e) {
                self::assertContains($e->problems[0]->field, ['year', 'pattern']);
            }
        }
    }
}
