<?php

declare(strict_types=1);

namespace Nelbix\Core\Money;

use Brick\Math\BigInteger;
use Brick\Math\RoundingMode;

/** Splits a total over shares by largest remainder; ties go to the first share first. Source: rules.md, Money. */
final class Shares
{
    /**
     * The parts always add up to the total. Weights may be negative as long as they do not add up to zero;
     * a negative total is the mirror of the positive one.
     *
     * @template K of array-key
     *
     * @param int $total in minor units
     * @param array<K, int> $weights not empty
     *
     * @return array<K, int> a part for each weight, in the same order under the same keys
     *
     * @throws \LogicException when the weights add up to zero and the total does not
     */
    public static function split(int $total, array $weights): array
    {
        if ($total < 0) {
            return array_map(static fn (int $part): int => -$part, self::split(-$total, $weights));
        }
        $sum = array_sum($weights);
        if (0 === $sum) {
            if (0 === $total) {
                return array_map(static fn (int $w): int => 0, $weights);
            }
            throw new \LogicException('A total cannot be split over weights that add up to zero.');
        }
        if ($sum < 0) {
            $weights = array_map(static fn (int $w): int => -$w, $weights);
            $sum = -$sum;
        }

        $parts = [];
        $remainders = [];
        $left = $total;
        foreach ($weights as $key => $weight) {
            $product = BigInteger::of($total)->multipliedBy($weight);
            $part = $product->dividedBy($sum, RoundingMode::FLOOR);
            $parts[$key] = $part->toInt();
            $remainders[$key] = $product->minus($part->multipliedBy($sum))->toInt();
            $left -= $parts[$key];
        }
        arsort($remainders, \SORT_NUMERIC); // stable since PHP 8.0: the first share comes first among equals
        foreach (array_keys($remainders) as $key) {
            if (0 === $left) {
                break;
            }
            ++$parts[$key];
            --$left;
        }

        return $parts;
    }
}
