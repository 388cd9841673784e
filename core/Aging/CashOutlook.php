<?php

declare(strict_types=1);

namespace Nelbix\Core\Aging;

use Nelbix\Core\Calendar\Day;

/**
 * Money by week: what is expected to come and to go, and the balance that leaves, as a range. Weeks run from Monday to Sunday (ISO 8601);
 * the first begins on the day of the outlook, and what should have moved before it moves in it. Source: common practice.
 */
final class CashOutlook
{
    /**
     * @param int $opening the balance on the day, minor units
     * @param iterable<CashFlow> $flows
     *
     * @return non-empty-list<CashWeek>
     */
    public static function of(int $opening, Day $today, int $weeks, iterable $flows): array
    {
        $sums = array_fill(0, $weeks, []);
        $moves = [
            'low' => array_fill(0, $weeks, 0),
            'usual' => array_fill(0, $weeks, 0),
            'high' => array_fill(0, $weeks, 0),
        ];
        foreach ($flows as $flow) {
            // what comes late leaves less, what goes early too
            $days =
                $flow->amount < 0
                    ? ['low' => $flow->early, 'usual' => $flow->usual, 'high' => $flow->late]
                    : ['low' => $flow->late, 'usual' => $flow->usual, 'high' => $flow->early];
            foreach ($days as $which => $day) {
                $week = self::week($today, $day);
                if ($week < $weeks) {
                    $moves[$which][$week] += $flow->amount;
                }
            }
            $week = self::week($today, $flow->usual);
            if ($week < $weeks) {
                $sums[$week][$flow->kind] = ($sums[$week][$flow->kind] ?? 0) + $flow->amount;
            }
        }
        $result = [];
        $balance = ['low' => $opening, 'usual' => $opening, 'high' => $opening];
        $k = 0;
        do {
            foreach ($balance as $which => $was) {
                $balance[$which] = $was + ($moves[$which][$k] ?? 0);
            }
            $monday = self::monday($today)->plusDays(7 * $k);
            $result[] = new CashWeek(Day::latest($today, $monday), $monday->plusDays(6), $sums[$k] ?? [], ...$balance);
        } while (++$k < $weeks);

        return $result;
    }

    /** @return int 0 for the week of the day of the outlook, and for all that should have moved before it */
    public static function week(Day $today, Day $day): int
    {
        return intdiv(max(0, self::monday($today)->daysUntil($day)), 7);
    }

    /** The Monday of a day's week. */
    public static function monday(Day $day): Day
    {
        return $day->plusDays(1 - (int) $day->dateTime()->format('N'));
    }
}
