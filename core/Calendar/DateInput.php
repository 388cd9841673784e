<?php

declare(strict_types=1);

namespace Nelbix\Core\Calendar;

use Nelbix\Core\Refused;

/**
 * Understands the short ways of typing a date.
 * "." books' day · "+10" "-3" days from the anchor · "12" the 12th nearest to the books' day · "3/12" "0312" in the
 * company's order, nearest year · "e" end of this month, "e-1" of last · ISO · "15 Jun 2026", "June 15", "15-Jun-26". Points stand
 * between a day and its month in that order, whatever the company's own; a day that only one order can have is that day.
 * Sources: interface.md, Keyboard; DIN 5008 for the points; the rest common practice.
 */
final readonly class DateInput
{
    private const MONTHS = [
        'january',
        'february',
        'march',
        'april',
        'may',
        'june',
        'july',
        'august',
        'september',
        'october',
        'november',
        'december',
    ];

    /**
     * @param Day $booksDay the day the company works on
     * @param bool $monthFirst the company's order of day and month
     */
    public function __construct(private Day $booksDay, private bool $monthFirst = true)
    {
    }

    /**
     * @param Day|null $anchor what "+10" counts from; the books' day when null (a due date counts from the document date)
     *
     * @throws Refused when it cannot be understood; the message names $field
     */
    public function read(string $text, string $field = 'date', ?Day $anchor = null): Day
    {
        $t = strtolower(trim($text));
        $refusal = Refused::because(
            $field,
            \sprintf(
                '“%s” is not a date; write it like 15 Jun 2026, %s, or . for the books’ day.',
                mb_strimwidth(trim($text), 0, 40, '…'),
                $this->monthFirst ? '6/15' : '15/6',
            ),
        );
        if ('.' === $t) {
            return $this->booksDay;
        }
        try {
            return match (true) {
                1 === preg_match('/\A[+-]\d{1,4}\z/', $t) => ($anchor ?? $this->booksDay)->plusDays((int) $t),
                1 === preg_match('/\Ae([+-]\d{1,2})?\z/', $t, $m) => Day::inMonth(
                    $this->booksDay->year,
                    $this->booksDay->month + (int) ($m[1] ?? 0),
                    31,
                ),
                1 === preg_match('/\A\d{4}-\d{2}-\d{2}\z/', $t) => Day::of($t),
                1 === preg_match('/\A\d{1,2}\z/', $t) => $this->nearestDay((int) $t),
                1 === preg_match('/\A(\d{1,2})\.(\d{1,2})(?:\.(\d{4}|\d{2}))?\.?\z/', $t, $m) => $this->ordered(
                    $m,
                    false,
                ),
                1 === preg_match('/\A(\d{1,2})[\/-](\d{1,2})(?:[\/-](\d{4}|\d{2}))?\z/', $t, $m),
                1 === preg_match('/\A(\d{2})(\d{2})(\d{4}|\d{2})?\z/', $t, $m) => $this->ordered($m, $this->monthFirst),
                1 ===
                    preg_match(
                        '/\A(\d{1,2})(?:\.|st|nd|rd|th)?[ -]?([a-z]{3,9})\.?(?:[ -](\d{4}|\d{2}))?\z/',
                        $t,
                        $m,
                    ) && null !== self::month($m[2]) => $this->withYear((int) $m[1], (int) self::month($m[2]), $m[3] ?? ''),
                1 === preg_match('/\A([a-z]{3,9})\.?[ -]?(\d{1,2})(?:st|nd|rd|th)?(?:,? (\d{4}))?\z/', $t, $m)
                    && null !== self::month($m[1]) => $this->withYear((int) $m[2], (int) self::month($m[1]), $m[3] ?? ''),
                default => throw $refusal,
            };
        } catch (Refused) {
            throw $refusal;
        }
    }

    /**
     * Two numbers in an order; when they cannot be a day in it and can in the other one, that is what is meant.
     *
     * @param array<int|string, string> $m the whole, both numbers, the year or ''
     */
    private function ordered(array $m, bool $monthFirst): Day
    {
        [$day, $month] = $monthFirst ? [(int) $m[2], (int) $m[1]] : [(int) $m[1], (int) $m[2]];
        if ($month > 12 && $day <= 12) {
            [$day, $month] = [$month, $day];
        }

        return $this->withYear($day, $month, $m[3] ?? '');
    }

    /** 1 to 12 for a month's name or its beginning; null for any other word. */
    private static function month(string $word): ?int
    {
        foreach (self::MONTHS as $k => $name) {
            if (str_starts_with($name, 'sept' === $word ? 'sep' : $word)) {
                return $k + 1;
            }
        }

        return null;
    }

    private function withYear(int $day, int $month, string $year): Day
    {
        if ('' !== $year) {
            return Day::ymd(2 === \strlen($year) ? 2000 + (int) $year : (int) $year, $month, $day);
        }
        $candidates = [];
        foreach ([-1, 0, 1] as $k) {
            if (checkdate($month, $day, $this->booksDay->year + $k)) {
                $candidates[] = Day::ymd($this->booksDay->year + $k, $month, $day);
            }
        }

        return $this->nearest($candidates);
    }

    private function nearestDay(int $day): Day
    {
        $candidates = [];
        foreach ([-1, 0, 1] as $k) {
            $in = Day::inMonth($this->booksDay->year, $this->booksDay->month + $k, $day);
            if ($in->day === $day) {
                $candidates[] = $in;
            }
        }

        return $this->nearest($candidates);
    }

    /** @param list<Day> $candidates */
    private function nearest(array $candidates): Day
    {
        if ([] === $candidates) {
            throw Refused::because('date', 'No such day.');
        }
        usort(
            $candidates,
            fn (Day $a, Day $b): int => [abs($this->booksDay->daysUntil($a)), $a->iso()] <=> [
                abs($this->booksDay->daysUntil($b)),
                $b->iso(),
            ],
        );

        return $candidates[0];
    }
}
