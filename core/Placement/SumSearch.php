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
        // what is more than the amount and all credits together is in no set, and need not be tried
        $credits = -array_sum(array_filter($worth, static fn (int $w): bool => $w < 0));
        $tried = array_keys(array_filter($worth, static fn (int $w): bool => $w <= $amount + $credits));
        $values = array_map(static fn (int $k): int => $worth[$k], $tried);
        if (array_sum(array_filter($values, static fn (int $w): bool => $w > 0)) < $amount) {
            return [];
        }

        return array_map(static fn (int $mask): int => self::bits($mask, $tried), self::met($amount, $values, $most));
    }

    /**
     * @param list<int> $worth
     *
     * @return list<int>
     */
    private static function met(int $amount, array $worth, int $most): array
    {
        $half = intdiv(\count($worth), 2);
        [$sums, $lowSizes] = self::subsets(\array_slice($worth, 0, $half));
        // nearly every sum is of one set: those of more are kept apart
        $first = $more = [];
        foreach ($sums as $mask => $sum) {
            if ($lowSizes[$mask] > $most) {
                continue;
            }
            if (!isset($first[$sum])) {
                $first[$sum] = $mask;
                continue;
            }
            // two of a sum and a size are enough to know that one is not the only one, and equal amounts do not multiply
            $equal = 0;
            foreach ([$first[$sum], ...$more[$sum] ?? []] as $known) {
                $equal += $lowSizes[$known] === $lowSizes[$mask] ? 1 : 0;
            }
            if ($equal < 2) {
                $more[$sum][] = $mask;
            }
        }
        [$sums, $sizes] = self::subsets(\array_slice($worth, $half));
        $found = [];
        foreach ($sums as $high => $sum) {
            if (!isset($first[$amount - $sum])) {
                continue;
            }
            foreach ([$first[$amount - $sum], ...$more[$amount - $sum] ?? []] as $low) {
                $both = $lowSizes[$low] + $sizes[$high];
                if (0 === $both || $both > $most) {
                    continue;
                }
                $found[] = $low | ($high << $half);
                if (\count($found) > 1) {
                    return $found;
                }
            }
        }

        return $found;
    }

    /**
     * A mask over some of the amounts as one over all of them.
     *
     * @param list<int> $places of the some
     */
    private static function bits(int $mask, array $places): int
    {
        $bits = 0;
        foreach ($places as $k => $place) {
            $bits |= (($mask >> $k) & 1) << $place;
        }

        return $bits;
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
