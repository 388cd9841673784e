<?php

declare(strict_types=1);

namespace Nelbix\Core\Aging;

use Nelbix\Core\Calendar\Day;

/** A week of an outlook. */
final readonly class CashWeek
{
    /**
     * @param Day $from the first day that counts: a Monday, or the day of the outlook
     * @param Day $to a Sunday
     * @param array<string, int> $sums what is expected, by kind; minor units, in positive, out negative
     * @param int $low the balance at the week's end if all that comes is late, minor units
     * @param int $usual the balance as expected
     * @param int $high the balance if all that comes is early
     */
    public function __construct(
        public Day $from,
        public Day $to,
        public array $sums,
        public int $low,
        public int $usual,
        public int $high,
    ) {
    }
}
