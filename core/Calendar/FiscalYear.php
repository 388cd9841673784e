<?php

declare(strict_types=1);

namespace Nelbix\Core\Calendar;

/** The year of the books that a day lies in, named after the calendar year in which it ends. Source: common practice. */
final readonly class FiscalYear
{
    /** @param int $firstMonth 1 to 12 */
    public static function of(Day $day, int $firstMonth): int
    {
        return $day->year + ($firstMonth > 1 && $day->month >= $firstMonth ? 1 : 0);
    }

    /** @param int $firstMonth 1 to 12 */
    public static function firstDay(int $year, int $firstMonth): Day
    {
        return Day::ymd($firstMonth > 1 ? $year - 1 : $year, $firstMonth, 1);
    }
}
