<?php

declare(strict_types=1);

namespace Nelbix\Core\Calendar;

use Nelbix\Core\Refused;

/**
 * The days on which something comes again: every month on the same day, at the end of every month, or every n weeks. Source: common
 * practice.
 */
final readonly class Recurrence
{
    public const EVERY = [
        'month' => 'every month',
        'month_end' => 'at the end of every month',
        'weeks' => 'every so many weeks',
    ];

    /**
     * @param string $every a key of EVERY
     * @param int $weeks 1 to 52; counts only for weeks
     * @param Day|null $until no day after it
     * @param int|null $most no more days than this
     *
     * @throws Refused naming the field
     */
    public function __construct(
        public Day $first,
        public string $every,
        public int $weeks = 1,
        public ?Day $until = null,
        public ?int $most = null,
    ) {
        if (!isset(self::EVERY[$every])) {
            throw Refused::because('every', 'Choose how often it comes.');
        }
        if ('weeks' === $every && ($weeks < 1 || $weeks > 52)) {
            throw Refused::because('weeks', 'Give a number of weeks from 1 to 52.');
        }
        if (null !== $until && $until->isBefore($first)) {
            throw Refused::because('until_on', 'The last day lies before the first.');
        }
        if (null !== $most && $most < 1) {
            throw Refused::because('most', 'Give a count of 1 or more, or leave it empty.');
        }
    }

    /** The day of the n-th time, counted from 0; null when it is over. A day that a month lacks becomes its last. */
    public function nth(int $n): ?Day
    {
        $day = match ($this->every) {
            'month' => Day::inMonth($this->first->year, $this->first->month + $n, $this->first->day),
            'month_end' => Day::inMonth($this->first->year, $this->first->month + $n, 31),
            default => $this->first->plusDays(7 * $this->weeks * $n),
        };

        return (null !== $this->most && $n >= $this->most) || (null !== $this->until && $day->isAfter($this->until))
            ? null
            : $day;
    }

    /** @return list<Day> the next $count days from the n-th time on */
    public function next(int $n, int $count): array
    {
        $days = [];
        for ($k = $n; $k < $n + $count && null !== ($day = $this->nth($k)); ++$k) {
            $days[] = $day;
        }

        return $days;
    }
}
