<?php

declare(strict_types=1);

namespace Nelbix\App\Setup;

use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Terms\PaymentTerm;
use Nelbix\Core\Terms\ScheduledPart;
use Nelbix\Core\Terms\TermDates;
use Nelbix\Core\Terms\TermInWords;

/** Where the days of a sample schedule stand: month sheets with marked days, and the windows on a strip of 31 days. */
final class TermCalendar
{
    /**
     * @param list<ScheduledPart> $parts
     *
     * @return list<array{name: string, blank: int, days: list<array{day: int, marks: list<string>}>}> at most four months,
     *                                                                                                 those without a mark left out
     */
    public static function months(TermDates $dates, Day $start, array $parts): array
    {
        $marks = [];
        $mark = static function (Day $day, string $what) use (&$marks): void {
            $marks[$day->iso()][] = $what;
        };
        $mark($dates->document, 'document');
        $mark($start, 'start');
        foreach ($parts as $part) {
            foreach ($part->discounts as $discount) {
                $mark($discount->through, 'discount');
            }
            $mark($part->due, 'due');
        }
        ksort($marks);
        $months = [];
        foreach (
            \array_slice(
                array_unique(array_map(static fn (string $iso): string => substr($iso, 0, 7), array_keys($marks))),
                0,
                4,
            ) as $month
        ) {
            $first = Day::of($month.'-01');
            $days = [];
            for ($day = $first; $day->month === $first->month; $day = $day->plusDays(1)) {
                $days[] = ['day' => $day->day, 'marks' => $marks[$day->iso()] ?? []];
            }
            $months[] = [
                'name' => substr($first->long(), 2),
                'blank' => (int) $first->dateTime()->format('N') - 1,
                'days' => $days,
            ];
        }

        return $months;
    }

    /** @return list<array{from: int, to: int, words: string}> the windows, and the days that none of them holds */
    public static function strip(PaymentTerm $term): array
    {
        $strip = [];
        for ($day = 1; $day <= 31; ++$day) {
            $words = 'that day itself';
            foreach ($term->windows as $window) {
                if ($window->holds($day)) {
                    $words = TermInWords::step($window->start);
                    break;
                }
            }
            $last = array_pop($strip);
            if (null !== $last && $last['words'] !== $words) {
                $strip[] = $last;
                $last = null;
            }
            $strip[] = ['from' => $last['from'] ?? $day, 'to' => $day, 'words' => $words];
        }

        return $strip;
    }
}
