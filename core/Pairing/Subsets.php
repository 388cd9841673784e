<?php

declare(strict_types=1);

namespace Nelbix\Core\Pairing;

/** Which of some amounts add up to nearly another: each half is summed, the halves are met in the middle. Source: textbook. */
final class Subsets
{
    public const MOST_ROWS = 30;
    public const MOST_IN_SET = 8;

    /**
     * @param list<int> $amounts at most MOST_ROWS, minor units
     * @param int $within how far the sum may be away
     * @param \Closure(int): bool $fits asked of each sum that is near enough
     *
     * @return list<non-empty-list<int>> places of the sets that fit, of at most MOST_IN_SET; two at most
     */
    public static function near(int $amount, array $amounts, int $within, \Closure $fits): array
    {
        $half = intdiv(\count($amounts), 2);
        $low = self::sums(\array_slice($amounts, 0, $half));
        $high = self::sums(\array_slice($amounts, $half));
        usort($low, static fn (array $a, array $b): int => $a[0] <=> $b[0]);
        $sums = array_column($low, 0);
        $found = [];
        foreach ($high as [$sum, $mask, $size]) {
            for (
                $at = self::first($sums, $amount - $within - $sum);
                $at < \count($low) && $low[$at][0] + $sum <= $amount + $within;
                ++$at
            ) {
                $both = $size + $low[$at][2];
                if (0 === $both || $both > self::MOST_IN_SET || !$fits($low[$at][0] + $sum)) {
                    continue;
                }
                $found[] = self::places($low[$at][1] | ($mask << $half));
                if (\count($found) > 1) {
                    return $found;
                }
            }
        }

        return $found;
    }

    /**
     * @param list<int> $amounts
     *
     * @return list<array{int, int, int}> sum, bit mask and size of each set that is not too big
     */
    private static function sums(array $amounts): array
    {
        $sets = [[0, 0, 0]];
        foreach ($amounts as $k => $amount) {
            foreach ($sets as [$sum, $mask, $size]) {
                if ($size < self::MOST_IN_SET) {
                    $sets[] = [$sum + $amount, $mask | (1 << $k), $size + 1];
                }
            }
        }

        return $sets;
    }

    /**
     * @param list<int> $sums in order
     *
     * @return int the first place whose sum is not below
     */
    private static function first(array $sums, int $least): int
    {
        [$low, $high] = [0, \count($sums)];
        while ($low < $high) {
            $middle = intdiv($low + $high, 2);
            if ($sums[$middle] < $least) {
                $low = $middle + 1;
            } else {
                $high = $middle;
            }
        }

        return $low;
    }

    /** @return non-empty-list<int> */
    private static function places(int $mask): array
    {
        $places = [];
        for ($k = 0; $mask > 0; ++$k, $mask >>= 1) {
            if (1 === ($mask & 1)) {
                $places[] = $k;
            }
        }

        return [] === $places ? throw new \LogicException('A set has a row.') : $places;
    }
}
