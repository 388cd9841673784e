<?php

declare(strict_types=1);

namespace Nelbix\Core\Calendar;

use Nelbix\Core\Refused;

/**
 * A calendar day of the proleptic Gregorian calendar (ISO 8601), without time or zone, from 1900 to 2199.
 *
 * It holds the number of days since 1 January 1970 (negative before), so that comparing and counting is arithmetic.
 */
final readonly class Day implements \Stringable
{
    private const MONTHS = ['Jan', 'Feb', 'Mar', 'Apr', 'May', 'Jun', 'Jul', 'Aug', 'Sep', 'Oct', 'Nov', 'Dec'];

    private function __construct(public int $number, public int $year, public int $month, public int $day)
    {
    }

    /** @throws Refused when there is no such day */
    public static function ymd(int $year, int $month, int $day): self
    {
        if ($year < 1900 || $year > 2199 || !checkdate($month, $day, $year)) {
            throw Refused::because(
                'date',
                \sprintf('%04d-%02d-%02d is not a day of the calendar.', $year, $month, $day),
            );
        }

        return self::make($year, $month, $day);
    }

    /** Equal days are one object, so that they compare as the same value everywhere. */
    private static function make(int $year, int $month, int $day): self
    {
        static $known = [];

        return $known[($year * 100 + $month) * 100 + $day] ??= new self(
            self::numberOf($year, $month, $day),
            $year,
            $month,
            $day,
        );
    }

    /** Days since 1970-01-01, counted in years that begin in March (Euclidean affine functions; from memory). */
    private static function numberOf(int $year, int $month, int $day): int
    {
        $year -= (int) ($month < 3);
        $dayOfYear = intdiv(153 * (($month + 9) % 12) + 2, 5) + $day - 1;

        return $year * 365 + intdiv($year, 4) - intdiv($year, 100) + intdiv($year, 400) + $dayOfYear - 719_468;
    }

    /** @throws Refused when the day lies outside the calendar's years */
    private static function numbered(int $number): self
    {
        $shifted = $number + 719_468;
        $century = intdiv(4 * $shifted + 3, 146_097);
        $inCentury = $shifted - intdiv(146_097 * $century, 4);
        $yearOfCentury = intdiv(4 * $inCentury + 3, 1_461);
        $dayOfYear = $inCentury - intdiv(1_461 * $yearOfCentury, 4);
        $month = intdiv(5 * $dayOfYear + 2, 153);

        return self::ymd(
            100 * $century + $yearOfCentury + (int) ($month > 9),
            $month < 10 ? $month + 3 : $month - 9,
            $dayOfYear - intdiv(153 * $month + 2, 5) + 1,
        );
    }

    /** @throws Refused when the text is not an ISO date such as 2026-06-15 */
    public static function of(string $iso, string $field = 'date'): self
    {
        if (
            1 !== preg_match('/\A(\d{4})-(\d{2})-(\d{2})\z/', $iso, $m)
            || !checkdate((int) $m[2], (int) $m[3], (int) $m[1])
            || (int) $m[1] < 1900
            || (int) $m[1] > 2199
        ) {
            throw Refused::because(
                $field,
                \sprintf('“%s” is not a date; write it like 2026-06-15.', mb_strimwidth($iso, 0, 40, '…')),
            );
        }

        return self::make((int) $m[1], (int) $m[2], (int) $m[3]);
    }

    public static function fromDateTime(\DateTimeInterface $date): self
    {
        return self::of($date->format('Y-m-d'));
    }

    /** The day $day of the month, or the month's last day when it lacks it. */
    public static function inMonth(int $year, int $month, int $day): self
    {
        $index = $year * 12 + $month - 1;
        [$year, $month] = [intdiv($index, 12), ($index % 12) + 1];

        return self::ymd($year, $month, min($day, self::lengthOf($year, $month)));
    }

    public function plusDays(int $days): self
    {
        return self::numbered($this->number + $days);
    }

    /** The same day of the month $months later, or that month's last day. */
    public function plusMonths(int $months): self
    {
        return self::inMonth($this->year, $this->month + $months, $this->day);
    }

    public function endOfMonth(): self
    {
        return self::inMonth($this->year, $this->month, 31);
    }

    /** Days from this day to the other; negative when the other is earlier. */
    public function daysUntil(self $other): int
    {
        return $other->number - $this->number;
    }

    public function isBefore(self $other): bool
    {
        return $this->number < $other->number;
    }

    public function isAfter(self $other): bool
    {
        return $this->number > $other->number;
    }

    public function equals(self $other): bool
    {
        return $this->number === $other->number;
    }

    public static function latest(self $first, self ...$others): self
    {
        foreach ($others as $other) {
            $first = $other->isAfter($first) ? $other : $first;
        }

        return $first;
    }

    public function iso(): string
    {
        return \sprintf('%04d-%02d-%02d', $this->year, $this->month, $this->day);
    }

    /** As people read it: 15 Jun 2026. */
    public function long(): string
    {
        return \sprintf('%d %s %d', $this->day, self::MONTHS[$this->month - 1], $this->year);
    }

    public function dateTime(): \DateTimeImmutable
    {
        return new \DateTimeImmutable($this->iso(), new \DateTimeZone('UTC'));
    }

    public function __toString(): string
    {
        return $this->iso();
    }

    private static function lengthOf(int $year, int $month): int
    {
        return match ($month) {
            2 => checkdate(2, 29, $year) ? 29 : 28,
            4, 6, 9, 11 => 30,
            default => 31,
        };
    }
}
