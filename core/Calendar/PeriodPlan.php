<?php

declare(strict_types=1);

namespace Nelbix\Core\Calendar;

use Nelbix\Core\Refused;

/**
 * The twelve posting periods of a year: calendar months, or quarters of 4-4-5 weeks. A year of weeks has 52 of them, or 53 when its last
 * day would else fall more than three days before the end of the year it stands for; the week more belongs to the last period. Source:
 * common practice (a 52-53-week year that ends on the same weekday nearest to the end of its last month).
 */
final readonly class PeriodPlan
{
    public const PATTERNS = [
        'months' => 'calendar months',
        '445' => '4-4-5 weeks',
        '454' => '4-5-4 weeks',
        '544' => '5-4-4 weeks',
    ];

    private const PERIODS = 12;
    private const WEEK = 7;

    /**
     * @param Day $first the day after the last period that is there
     * @param Day $end the last day of the fiscal year that is planned, by its months
     * @param string $pattern a key of PATTERNS
     *
     * @return list<array{Day, Day}> first and last day of each, without a gap
     *
     * @throws Refused when the pattern is none, or the first day is not near the beginning of that year
     */
    public static function of(Day $first, Day $end, string $pattern): array
    {
        if (!isset(self::PATTERNS[$pattern])) {
            throw Refused::because('pattern', 'Choose how the year is parted.');
        }
        $days = $first->daysUntil($end) + 1;
        if ($days < 358 || $days > 373) {
            throw Refused::because(
                'year',
                \sprintf('From %s through %s there are %d days; that is no year.', $first->long(), $end->long(), $days),
            );
        }

        return 'months' === $pattern ? self::months($first, $end) : self::weeks($first, $days, $pattern);
    }

    /**
     * The first month begins where the year before ended, the last ends with the year.
     *
     * @return list<array{Day, Day}>
     */
    private static function months(Day $first, Day $end): array
    {
        $periods = [];
        for ($n = self::PERIODS - 1; $n >= 0; --$n) {
            $last = Day::inMonth($end->year, $end->month - $n, 31);
            $periods[] = [$first, $last];
            $first = $last->plusDays(1);
        }

        return $periods;
    }

    /** @return list<array{Day, Day}> */
    private static function weeks(Day $first, int $days, string $pattern): array
    {
        // the nearest number of whole weeks: the last day keeps its weekday and stays within three days of the year's end
        $weeks = intdiv($days + 3, self::WEEK);
        $periods = [];
        for ($n = 0; $n < self::PERIODS; ++$n) {
            $length = (int) $pattern[$n % 3] + (self::PERIODS - 1 === $n ? $weeks - 52 : 0);
            $last = $first->plusDays(self::WEEK * $length - 1);
            $periods[] = [$first, $last];
            $first = $last->plusDays(1);
        }

        return $periods;
    }
}
