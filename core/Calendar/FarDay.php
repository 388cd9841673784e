<?php

declare(strict_types=1);

namespace Nelbix\Core\Calendar;

/**
 * A day so far from the books' day that it may be mistyped: more than 31 days after it or 366 before it. Source: rules.md, Before posting.
 */
final readonly class FarDay
{
    private const AHEAD = 31;
    private const BACK = 366;

    public static function is(Day $day, Day $booksDay): bool
    {
        return $day->isAfter($booksDay->plusDays(self::AHEAD)) || $day->isBefore($booksDay->plusDays(-self::BACK));
    }

    /** A question in words, for a day that is far. */
    public static function question(Day $day, Day $booksDay): string
    {
        return \sprintf(
            '%s is far from today, %s; say that you mean it, or correct it.',
            $day->long(),
            $booksDay->long(),
        );
    }
}
