<?php

declare(strict_types=1);

namespace Nelbix\Core\Charges;

/** The ladder of reminders: rungs are climbed one a run, in order. Source: rules.md, Reminders. */
final class Rungs
{
    /**
     * Which rung a customer climbs now.
     *
     * @param list<int> $days past due of each rung, rising
     * @param int $late how many days the oldest item that counts is past due
     * @param int $sent the highest rung that was sent for that item; 0 for none
     *
     * @return int counted from 1; 0 when the next one is not reached, or there is none
     */
    public static function next(array $days, int $late, int $sent): int
    {
        return isset($days[$sent]) && $late >= $days[$sent] ? $sent + 1 : 0;
    }
}
