<?php

declare(strict_types=1);

namespace Nelbix\Core\Placement;

/** Which of some amounts add up to another: each half is summed once, and the halves are met in the middle. Source: textbook. */
final readonly class SumSearch
{
    /**
     * Up to two sets of at most so many that add up to the amount, as bit masks. Takes at most 2 * 2^15 steps for 30 items.
     *
     * @param list<int> $worth at most 60, minor units; credits are negative
     * @param int $most items in a set
     *
     * @return list<int>
     */
    public static function masks(int $amount, array $worth, int $most): array
    {
        $half = intdiv(\count($worth), 2);
        [$sums, $sizes] = self::subsets(\array_slice($worth, 0, $half));
        $first = [];
        foreach ($sums as $mask => $sum) {
            // two of a sum and a size are enough to know that one is not the only one, and equal amounts do not multiply
            if ($sizes[$mask] <= $most && \count($first[$sum][$sizes[$mask]] ?? []) < 2) {
                $first[$sum][$sizes[$mask]][] = $mask;
            }
        }
        [$sums, $sizes] = self::subsets(\array_slice($worth, $half));
        $found = [];
        foreach ($sums as $high => $sum) {
            foreach ($first[$amount - $sum] ?? [] as $size => $lows) {
                $both = $size + $sizes[$high];
                if (0 === $both || $both > $most) {
                    continue;
                }
                foreach ($lows as $low) {
                    $found[] = $low | ($high << $half);
                    if (\count($found) > 1) {
                        return $found;
                    }
                }
            }
        }

        return $found;
    }

    /**
     * The sum and the size of each set of these, by its bit mask: each is one item more than a smaller one.
     *
     * @param list<int> $worth
     *
     * @return array{list<int>, list<int>}
     */
    private static function subsets(array $worth): array
    {
        $sums = $sizes = [0];
        foreach ($worth as $value) {
            foreach ($sums as $mask => $sum) {
                $sums[] = $sum + $value;
                $sizes[] = $sizes[$mask] + 1;
            }
        }

        return [$sums, $sizes];
    }
}
