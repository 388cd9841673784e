<?php

declare(strict_types=1);

namespace Nelbix\Core\Placement;

use Nelbix\Core\Calendar\Day;
use Nelbix\Core\OpenItems\OpenItem;

/**
 * Proposes where money goes; it never places anything by itself. The first rule that fits comes first, the others follow
 * for the clerk who asks on. Source: rules.md, Proposing where a receipt goes.
 */
final readonly class Placer
{
    /** Rule 3 looks at no more items than this, and at no larger sets: beyond, "only one" could not be said. */
    public const MOST_ITEMS = 30;
    public const MOST_IN_SET = 8;

    /** A discount that lapsed longer ago than so many days is not what somebody took by mistake. */
    public const LAPSED_DAYS = 14;

    /**
     * @param int $amount what came, minor units, positive
     * @param string $text the payer's own words
     * @param list<OpenItem> $items of one party, side and currency, open, with their discounts
     * @param Day $on the day of the money; discounts that hold on it count
     * @param int $mostCharge what banks on the way may have kept, minor units; 0 proposes nothing of the kind
     * @param array<int, int> $marked by item, what the payer marked on a list of open items: 0 for all of it, else what is paid of it
     * @param list<int> $asked what prepayments were asked for and have not come, minor units
     *
     * @return list<Idea> in the order of the rules, no two with the same placement; empty: the money stays unapplied
     */
    public static function ideas(
        int $amount,
        string $text,
        array $items,
        Day $on,
        int $mostCharge = 0,
        array $marked = [],
        array $asked = [],
    ): array {
        if (([] === $items && [] === $asked) || ($amount <= 0 && [] === $marked)) {
            return [];
        }
        usort(
            $items,
            static fn (OpenItem $a, OpenItem $b): int => [$a->due->iso(), $a->id] <=> [$b->due->iso(), $b->id],
        );
        $placed = Spending::asMarked($amount, $items, $marked, $on);
        $found = [[] === $placed ? null : new Idea(Why::Marked, $placed)];
        if ($amount > 0) {
            array_push($found, ...self::found($amount, $text, $items, $on, $mostCharge, $asked));
        }
        $ideas = [];
        foreach (array_filter($found) as $idea) {
            if ([] === array_filter($ideas, static fn (Idea $i): bool => $i->placed === $idea->placed)) {
                $ideas[] = $idea;
            }
        }

        return $ideas;
    }

    /**
     * Rule after rule; two that fit equally end it.
     *
     * @param list<OpenItem> $items
     * @param list<int> $asked
     *
     * @return list<Idea|null>
     */
    private static function found(
        int $amount,
        string $text,
        array $items,
        Day $on,
        int $mostCharge,
        array $asked,
    ): array {
        $found = [self::named($amount, $text, $items, $on)];
        foreach (
            [
                static fn (): array => self::oneAmount($amount, $items, $on),
                static fn (): array => self::order($amount, $text, $items, $on),
                static fn (): array => \count($items) > self::MOST_ITEMS ? [] : self::sums($amount, $items, $on),
                static fn (): array => array_filter([self::wholeAccount($amount, $items, $on)]),
                static fn (): array => array_map(
                    static fn (): Idea => new Idea(Why::Asked, []),
                    array_keys($asked, $amount, true),
                ),
            ] as $rule
        ) {
            $fits = array_values($rule());
            if (\count($fits) > 1) {
                return $found;
            }
            $found[] = $fits[0] ?? null;
        }
        // what is guessed at last: only where nothing else was found
        if ([] === array_filter($found)) {
            foreach ([self::lapsed($amount, $items, $on), self::lessCharge($amount, $items, $mostCharge)] as $fits) {
                if ([] !== $fits) {
                    return 1 === \count($fits) ? $fits : [];
                }
            }
        }

        return $found;
    }

    /**
     * Credits and invoices by due date until the money is used up. Only on the clerk's key, never proposed.
     *
     * @param list<OpenItem> $items as for ideas()
     */
    public static function oldestFirst(int $amount, array $items, Day $on): ?Idea
    {
        usort(
            $items,
            static fn (OpenItem $a, OpenItem $b): int => [$a->due->iso(), $a->id] <=> [$b->due->iso(), $b->id],
        );
        $placed = Spending::on(
            $amount,
            array_values(array_filter($items, static fn (OpenItem $i): bool => $i->open > 0)),
            $on,
        );

        return [] === $placed ? null : new Idea(Why::Oldest, $placed);
    }

    /** @param list<OpenItem> $items */
    private static function named(int $amount, string $text, array $items, Day $on): ?Idea
    {
        if ('' === trim($text)) {
            return null;
        }
        $named = array_values(
            array_filter($items, static fn (OpenItem $i): bool => DocumentName::isIn($text, $i->number)),
        );
        // who pays all of them in full took no discount
        $full = array_sum(array_map(static fn (OpenItem $i): int => $i->open, $named));
        $placed = $full === $amount ? Spending::whole($named, false, $on) : Spending::on($amount, $named, $on);

        return [] === $placed ? null : new Idea(Why::Text, $placed);
    }

    /**
     * All of one order of the customer: the one that its text names, else the only one that comes to the amount.
     *
     * @param list<OpenItem> $items
     *
     * @return list<Idea>
     */
    private static function order(int $amount, string $text, array $items, Day $on): array
    {
        $orders = [];
        foreach ($items as $item) {
            if ('' !== trim($item->order)) {
                $orders[mb_strtoupper(trim($item->order))][] = $item;
            }
        }
        $fits = [];
        foreach ($orders as $order => $of) {
            if (mb_strlen((string) $order) > 2 && DocumentName::isIn($text, (string) $order)) {
                $placed = Spending::on($amount, $of, $on);

                return [] === $placed ? [] : [new Idea(Why::Order, $placed)];
            }
            foreach ([false, true] as $withDiscount) {
                $worth = array_sum(
                    array_map(static fn (OpenItem $i): int => Spending::worth($i, $withDiscount, $on), $of),
                );
                if ($worth === $amount) {
                    $fits[$order] ??= new Idea(Why::Order, Spending::whole($of, $withDiscount, $on));
                }
            }
        }

        return array_values($fits);
    }

    /**
     * @param list<OpenItem> $items
     *
     * @return list<Idea> one for each that fits, with or without its discount
     */
    private static function oneAmount(int $amount, array $items, Day $on): array
    {
        $fits = array_values(
            array_filter(
                $items,
                static fn (OpenItem $i): bool => $i->open > 0
                    && ($i->open === $amount
                        // a discount takes off, so only of what is more is it worked out
                        || ($i->open > $amount && $i->open - $i->discountOn($on) === $amount)),
            ),
        );

        return array_map(
            static fn (OpenItem $i): Idea => new Idea(Why::Amount, Spending::whole([$i], $i->open !== $amount, $on)),
            $fits,
        );
    }

    /**
     * One item of which just the discount is missing that lapsed a few days ago: the money is placed, the rest is for the clerk to decide.
     *
     * @param list<OpenItem> $items
     *
     * @return list<Idea>
     */
    private static function lapsed(int $amount, array $items, Day $on): array
    {
        $fits = array_values(
            array_filter(
                $items,
                static fn (OpenItem $i): bool => $i->open > 0
                    && null !== ($last = $i->discount?->lastDay())
                    && $last->daysUntil($on) <= self::LAPSED_DAYS
                    && 0 !== ($lapsed = $i->discount->lapsed($i->open, $i->open, $on))
                    && $i->open - $lapsed === $amount,
            ),
        );

        return array_map(
            static fn (OpenItem $i): Idea => new Idea(Why::Lapsed, [$i->id => ['gross' => $amount, 'discount' => 0]]),
            $fits,
        );
    }

    /**
     * One item that is short of no more than what banks keep: the money is placed, the rest is for the clerk to decide.
     *
     * @param list<OpenItem> $items
     *
     * @return list<Idea>
     */
    private static function lessCharge(int $amount, array $items, int $most): array
    {
        $fits = array_values(
            array_filter($items, static fn (OpenItem $i): bool => $i->open > $amount && $i->open - $amount <= $most),
        );

        return array_map(
            static fn (OpenItem $i): Idea => new Idea(Why::Charge, [$i->id => ['gross' => $amount, 'discount' => 0]]),
            $fits,
        );
    }

    /** @param list<OpenItem> $items */
    private static function wholeAccount(int $amount, array $items, Day $on): ?Idea
    {
        $whole = array_sum(array_map(static fn (OpenItem $i): int => $i->open, $items));
        foreach ($whole > $amount ? [false, true] : [false] as $withDiscount) {
            if (
                $amount ===
                array_sum(array_map(static fn (OpenItem $i): int => Spending::worth($i, $withDiscount, $on), $items))
            ) {
                return new Idea(Why::Account, Spending::whole($items, $withDiscount, $on));
            }
        }

        return null;
    }

    /**
     * Sets of invoices less credits that add up to the amount, all with their discounts or all without; two are enough to know
     * that it is not the only one.
     *
     * @param list<OpenItem> $items
     *
     * @return list<Idea>
     */
    private static function sums(int $amount, array $items, Day $on): array
    {
        $found = [];
        $discounted = [] !== array_filter($items, static fn (OpenItem $i): bool => 0 !== $i->discountOn($on));
        foreach ($discounted ? [false, true] : [false] as $withDiscount) {
            $worth = array_map(static fn (OpenItem $i): int => Spending::worth($i, $withDiscount, $on), $items);
            foreach (SumSearch::masks($amount, $worth, self::MOST_IN_SET) as $mask) {
                $set = array_values(
                    array_filter($items, static fn (int $k): bool => 0 !== (($mask >> $k) & 1), \ARRAY_FILTER_USE_KEY),
                );
                $placed = Spending::whole($set, $withDiscount, $on);
                if (!\in_array($placed, $found, true)) {
                    $found[] = $placed;
                }
                if (\count($found) > 1) {
                    break 2;
                }
            }
        }

        return array_map(static fn (array $p): Idea => new Idea(Why::Sum, $p), $found);
    }
}
