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
     * Uses credits among them first, then pays one after the other; the last in part, with its part of the discount. No discount is taken
     * that the money does not need.
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
                [$placed, $left] = self::fitted($left, $item, $items, $placed, $on);
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
        $of = array_values(array_filter($items, static fn (OpenItem $i): bool => isset($marked[$i->id])));
        foreach ($of as $item) {
            if ($item->open < 0) {
                $use = 0 === $marked[$item->id] ? -$item->open : min(-$item->open, $marked[$item->id]);
                $placed[$item->id] = ['gross' => $use, 'discount' => 0];
                $left += 0 === $amount ? 0 : $use;
            }
        }
        foreach ($of as $item) {
            if ($item->open <= 0 || $left <= 0) {
                continue;
            }
            if (0 === $amount || 0 !== $marked[$item->id]) {
                $pay = min($left, $marked[$item->id] ?: self::worth($item, true, $on));
                $placed[$item->id] = self::paid($item, $pay, $on);
                $left -= $placed[$item->id]['gross'] - $placed[$item->id]['discount'];
            } else {
                [$placed, $left] = self::fitted($left, $item, $of, $placed, $on);
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

    /**
     * What a key places on one row, or one after the other on several: all that fits. What reaches all that is open takes no discount; what
     * reaches it with the discount takes as much as it lacks, and rows that were paid whole before give up what they paid beyond their own
     * discount where that makes this one whole; else a part is paid. Where the amount is not said, all is paid, less the discount. A credit
     * is used as far as the rows still owe. Source: rules.md, Payment terms, Discount; interface.md, Keyboard.
     *
     * @param int|null $left money and credits that have no place yet, minor units; null where the amount is what the rows come to
     * @param list<OpenItem> $items of the board
     * @param Placed $placed what stands there
     * @param Day|null $on the day the money moved; null where credits are alone, which earn no discount
     *
     * @return array{Placed, int|null} what stands there then, and what is left
     */
    public static function fitted(?int $left, OpenItem $item, array $items, array $placed, ?Day $on): array
    {
        if ($item->open < 0) {
            return self::used($left, $item, $items, $placed);
        }
        if (null === $left) {
            $placed[$item->id] = ['gross' => $item->open, 'discount' => self::discount($item, $on)];

            return [$placed, null];
        }
        $lacks = $item->open - self::discount($item, $on) - $left;
        $gives = $lacks > 0 ? self::gives($item, $items, $placed, $on) : [];
        foreach (array_sum($gives) >= $lacks ? $gives : [] as $id => $most) {
            $more = min($lacks, $most);
            $placed[$id] = ['gross' => $placed[$id]['gross'], 'discount' => $placed[$id]['discount'] + $more];
            $left += $more;
            $lacks -= $more;
        }
        if ($left > 0) {
            $placed[$item->id] = self::paid($item, $left, $on);
            $left -= $placed[$item->id]['gross'] - $placed[$item->id]['discount'];
        }

        return [$placed, $left];
    }

    /**
     * @param list<OpenItem> $items
     * @param Placed $placed
     *
     * @return array<int, int> discount that holds and is not taken on rows that are paid whole, by item, the last first
     */
    private static function gives(OpenItem $but, array $items, array $placed, ?Day $on): array
    {
        $gives = [];
        foreach (array_reverse($items) as $item) {
            $of = $placed[$item->id] ?? null;
            if (null !== $of && $item->open > 0 && $of['gross'] === $item->open && $item->id !== $but->id) {
                $gives[$item->id] = max(0, self::discount($item, $on) - $of['discount']);
            }
        }

        return $gives;
    }

    /**
     * @param list<OpenItem> $items
     * @param Placed $placed
     *
     * @return array{Placed, int|null}
     */
    private static function used(?int $left, OpenItem $credit, array $items, array $placed): array
    {
        $owed = -($left ?? 0);
        foreach ($items as $item) {
            $gross = $placed[$item->id]['gross'] ?? 0;
            $owed += match (true) {
                // where the amount follows, what is placed is still to be paid, and the other credits pay some of it
                null === $left => $item->open > 0 ? $item->open : -$gross,
                default => $item->open > 0 ? $item->open - $gross : 0,
            };
        }
        $use = min(-$credit->open, max(0, $owed));
        if ($use > 0) {
            $placed[$credit->id] = ['gross' => $use, 'discount' => 0];
        }

        return [$placed, null === $left ? null : $left + $use];
    }

    private static function discount(OpenItem $item, ?Day $on): int
    {
        return null === $on ? 0 : $item->discountOn($on);
    }

    /** What is open of an item, less the discount that holds on the day where it is taken; a credit is below zero. */
    public static function worth(OpenItem $item, bool $withDiscount, Day $on): int
    {
        return $item->open - ($withDiscount ? $item->discountOn($on) : 0);
    }

    /** @return array{gross: int, discount: int} what so much money settles of an item: all of it with its discount, or a part */
    private static function paid(OpenItem $item, int $money, ?Day $on): array
    {
        if ($money >= $item->open - self::discount($item, $on)) {
            return ['gross' => $item->open, 'discount' => max(0, $item->open - $money)];
        }
        $part =
            null === $on || null === $item->discount
                ? ['settled' => $money, 'discount' => 0]
                : $item->discount->onPayment($item->open, $money, $on);

        return ['gross' => $part['settled'], 'discount' => $part['discount']];
    }
}
