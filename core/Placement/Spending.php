<?php

declare(strict_types=1);

namespace Nelbix\Core\Placement;

use Nelbix\Core\Calendar\Day;
use Nelbix\Core\OpenItems\OpenItem;

/**
 * What is placed on which item when money is spent on them: gross and the discount in it, minor units, by item in the order of their ids.
 *
 * @phpstan-type Placed array<int, array{gross: int, discount: int}>
 */
final class Spending
{
    /**
     * Uses credits among them first, then pays one after the other; the last in part, with its part of the discount.
     *
     * @param list<OpenItem> $items
     *
     * @return Placed empty when nothing is paid by it
     */
    public static function on(int $amount, array $items, Day $on): array
    {
        $need = array_sum(array_map(static fn (OpenItem $i): int => max(0, self::worth($i, true, $on)), $items));
        $placed = [];
        $left = $amount;
        foreach ($items as $item) {
            $use = $item->open < 0 ? min(-$item->open, max(0, $need - $left)) : 0;
            if ($use > 0) {
                $placed[$item->id] = ['gross' => $use, 'discount' => 0];
                $left += $use;
            }
        }
        $paid = false;
        foreach ($items as $item) {
            if ($item->open > 0 && $left > 0) {
                $paid = true;
                $placed[$item->id] = self::paid($item, min($left, self::worth($item, true, $on)), $on);
                $left -= $placed[$item->id]['gross'] - $placed[$item->id]['discount'];
            }
        }
        ksort($placed);

        return $paid ? $placed : [];
    }

    /**
     * What the payer marked, credits too; an amount that is not typed is what it comes to.
     *
     * @param int $amount 0 for what it comes to
     * @param list<OpenItem> $items
     * @param array<int, int> $marked by item, 0 for all of it, else what is paid of it
     *
     * @return Placed
     */
    public static function asMarked(int $amount, array $items, array $marked, Day $on): array
    {
        $placed = [];
        $left = 0 === $amount ? \PHP_INT_MAX : $amount;
        $of = array_filter($items, static fn (OpenItem $i): bool => isset($marked[$i->id]));
        foreach ($of as $item) {
            if ($item->open < 0) {
                $use = 0 === $marked[$item->id] ? -$item->open : min(-$item->open, $marked[$item->id]);
                $placed[$item->id] = ['gross' => $use, 'discount' => 0];
                $left += 0 === $amount ? 0 : $use;
            }
        }
        foreach ($of as $item) {
            $pay = min($left, 0 === $marked[$item->id] ? self::worth($item, true, $on) : $marked[$item->id]);
            if ($item->open > 0 && $pay > 0) {
                $placed[$item->id] = self::paid($item, $pay, $on);
                $left -= $placed[$item->id]['gross'] - $placed[$item->id]['discount'];
            }
        }
        ksort($placed);

        return $placed;
    }

    /**
     * All of each.
     *
     * @param list<OpenItem> $items
     *
     * @return Placed
     */
    public static function whole(array $items, bool $withDiscount, Day $on): array
    {
        $placed = [];
        foreach ($items as $item) {
            $placed[$item->id] = [
                'gross' => abs($item->open),
                'discount' => $withDiscount ? $item->discountOn($on) : 0,
            ];
        }
        ksort($placed);

        return $placed;
    }

    /** What is open of an item, less the discount that holds on the day where it is taken; a credit is below zero. */
    public static function worth(OpenItem $item, bool $withDiscount, Day $on): int
    {
        return $item->open - ($withDiscount ? $item->discountOn($on) : 0);
    }

    /** @return array{gross: int, discount: int} what so much money settles of an item: all of it with its discount, or a part */
    private static function paid(OpenItem $item, int $money, Day $on): array
    {
        if ($money >= self::worth($item, true, $on)) {
            return ['gross' => $item->open, 'discount' => max(0, $item->open - $money)];
        }
        $part = $item->discount?->onPayment($item->open, $money, $on) ?? ['settled' => $money, 'discount' => 0];

        return ['gross' => $part['settled'], 'discount' => $part['discount']];
    }
}
