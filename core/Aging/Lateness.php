<?php

declare(strict_types=1);

namespace Nelbix\Core\Aging;

use Nelbix\Core\Calendar\Day;

/**
 * How many days after its due date somebody pays: a quarter of the money had come by the early day, half by the usual one, three quarters
 * by the late one. Negative is before the due date. Source: quantiles weighed by amount, nearest rank: the least value whose share of the
 * weight reaches the quantile (Hyndman and Fan 1996, definition 1; numpy's "inverted_cdf").
 */
final readonly class Lateness
{
    /** Fewer payments than this say nothing about somebody. */
    public const ENOUGH = 3;

    /** @param int $payments that say so */
    public function __construct(public int $early, public int $usual, public int $late, public int $payments)
    {
    }

    /**
     * @param array<int, int> $paid what was paid, in minor units, by days after the due date
     * @param int $payments how many payments that were
     *
     * @return self|null null when there were too few of them
     */
    public static function of(array $paid, int $payments): ?self
    {
        $paid = array_filter($paid, static fn (int $amount): bool => $amount > 0);
        if ($payments < self::ENOUGH || [] === $paid) {
            return null;
        }
        ksort($paid);
        $total = array_sum($paid);

        return new self(
            self::quantile($paid, $total, 1),
            self::quantile($paid, $total, 2),
            self::quantile($paid, $total, 3),
            $payments,
        );
    }

    /**
     * When what is due is likely to come, seen from a day: no estimate is earlier than that day.
     *
     * @param Day|null $promised a day that was promised, for what is over: then the early and the usual day are that one
     *
     * @return array{early: Day, usual: Day, late: Day}
     */
    public function after(Day $due, Day $today, ?Day $promised = null): array
    {
        if (null !== $promised && !$due->isAfter($today)) {
            return [
                'early' => $promised,
                'usual' => $promised,
                'late' => $promised->plusDays($this->late - $this->usual),
            ];
        }

        return [
            'early' => Day::latest($today, $due->plusDays($this->early)),
            'usual' => Day::latest($today, $due->plusDays($this->usual)),
            'late' => Day::latest($today, $due->plusDays($this->late)),
        ];
    }

    /**
     * @param array<int, int> $paid in rising order of its keys
     * @param int $quarters 1 to 3
     */
    private static function quantile(array $paid, int $total, int $quarters): int
    {
        $sum = 0;
        foreach ($paid as $days => $amount) {
            $sum += $amount;
            if (4 * $sum >= $quarters * $total) {
                return $days;
            }
        }

        return (int) array_key_last($paid);
    }
}
