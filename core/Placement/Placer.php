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
     *
     * @return list<Idea> in the order of the rules, no two with the same placement; empty: the money stays unapplied
     */
    public static function ideas(int $amount, string $text, array $items, Day $on, int $mostCharge = 0): array
    {
        if ($amount <= 0 || [] === $items) {
            return [];
        }
        usort(
            $items,
            static fn (OpenItem $a, OpenItem $b): int => [$a->due->iso(), $a->id] <=> [$b->due->iso(), $b->id],
        );
        $found = [self::named($amount, $text, $items, $on), self::oneAmount($amount, $items, $on)];
        $sums = \count($items) > self::MOST_ITEMS ? [] : self::sums($amount, $items, $on);
        if (1 === \count($sums)) {
            $found[] = new Idea(Why::Sum, $sums[0]);
        }
        // two sets that both fit end the proposing
        if (\count($sums) < 2) {
            $found[] = self::wholeAccount($amount, $items, $on);
        }
        $found[] = self::lapsed($amount, $items, $on);
        $found[] = self::lessCharge($amount, $items, $mostCharge);
        $ideas = [];
        foreach (array_filter($found) as $idea) {
            if ([] === array_filter($ideas, static fn (Idea $i): bool => $i->placed === $idea->placed)) {
                $ideas[] = $idea;
            }
        }

        return $ideas;
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
        $placed = self::spend(
            $amount,
            array_values(array_filter($items, static fn (OpenItem $i): bool => $i->open > 0)),
            $on,
        );

        return [] === $placed ? null : new Idea(Why::Oldest, $placed);
    }

    /**
     * True when the text names a document: its letters, year and number with any punctuation between them, or the year and
     * the whole number with its zeros. An amount such as 26,388.00 names nothing.
     */
    public static function names(string $text, string $number): bool
    {
        [$document, $part] = [...explode('/', $number, 2), null];
        $groups = preg_split('/[^A-Z0-9]+/', strtoupper((string) $document), -1, \PREG_SPLIT_NO_EMPTY) ?: [];
        if ([] === $groups) {
            return false;
        }
        $gap = '[^A-Z0-9]{0,3}';
        $full = implode(
            $gap,
            array_map(
                static fn (string $g): string => ctype_digit($g) ? '0*'.ltrim($g, '0') : preg_quote($g, '/'),
                $groups,
            ),
        );
        $patterns = 1 === preg_match('/[A-Z]/', $groups[0]) || 1 === \count($groups) ? [$full] : [];
        $last = $groups[\count($groups) - 1];
        if (\count($groups) > 2 && str_starts_with($last, '0')) {
            // but not the tail of another kind of number
            $patterns[] = '(?<![A-Z][^A-Z0-9 ])'.implode($gap, \array_slice($groups, 1));
        }
        // "/2" names that instalment only; without it all of them are meant
        $after = '(?![A-Z0-9])(?!\/\d)';
        $ending = null === $part ? $after : '(?:\/'.preg_quote($part, '/').'(?![0-9])|'.$after.')';

        return 1 ===
            preg_match(
                '/(?<![A-Z0-9])(?:'.implode('|', [] === $patterns ? [$full] : $patterns).')'.$ending.'/',
                strtoupper($text),
            );
    }

    /** @param list<OpenItem> $items */
    private static function named(int $amount, string $text, array $items, Day $on): ?Idea
    {
        if ('' === trim($text)) {
            return null;
        }
        $named = array_values(array_filter($items, static fn (OpenItem $i): bool => self::names($text, $i->number)));
        $placed = self::spend($amount, $named, $on);

        return [] === $placed ? null : new Idea(Why::Text, $placed);
    }

    /**
     * Uses credits among them first, then pays one after the other; the last in part, with its part of the discount.
     *
     * @param list<OpenItem> $items
     *
     * @return array<int, array{gross: int, discount: int}>
     */
    private static function spend(int $amount, array $items, Day $on): array
    {
        $need = array_sum(array_map(static fn (OpenItem $i): int => max(0, $i->open - $i->discountOn($on)), $items));
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
            if ($item->open <= 0 || $left <= 0) {
                continue;
            }
            $paid = true;
            $discount = $item->discountOn($on);
            $part =
                $left >= $item->open - $discount
                    ? ['settled' => $item->open, 'discount' => $discount]
                    : $item->discount?->onPayment($item->open, $left, $on) ?? ['settled' => $left, 'discount' => 0];
            $placed[$item->id] = ['gross' => $part['settled'], 'discount' => $part['discount']];
            $left -= $part['settled'] - $part['discount'];
        }
        ksort($placed);

        return $paid ? $placed : [];
    }

    /** @param list<OpenItem> $items */
    private static function oneAmount(int $amount, array $items, Day $on): ?Idea
    {
        $fits = array_values(
            array_filter(
                $items,
                static fn (OpenItem $i): bool => $i->open > 0
                    && ($i->open === $amount || $i->open - $i->discountOn($on) === $amount),
            ),
        );

        return 1 === \count($fits) ? new Idea(Why::Amount, self::whole($fits, $fits[0]->open !== $amount, $on)) : null;
    }

    /**
     * One item of which just the discount is missing that lapsed a few days ago: the money is placed, the rest is for the clerk to decide.
     *
     * @param list<OpenItem> $items
     */
    private static function lapsed(int $amount, array $items, Day $on): ?Idea
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

        return 1 === \count($fits)
            ? new Idea(Why::Lapsed, [$fits[0]->id => ['gross' => $amount, 'discount' => 0]])
            : null;
    }

    /**
     * One item that is short of no more than what banks keep: the money is placed, the rest is for the clerk to decide.
     *
     * @param list<OpenItem> $items
     */
    private static function lessCharge(int $amount, array $items, int $most): ?Idea
    {
        $fits = array_values(
            array_filter($items, static fn (OpenItem $i): bool => $i->open > $amount && $i->open - $amount <= $most),
        );

        return 1 === \count($fits)
            ? new Idea(Why::Charge, [$fits[0]->id => ['gross' => $amount, 'discount' => 0]])
            : null;
    }

    /** @param list<OpenItem> $items */
    private static function wholeAccount(int $amount, array $items, Day $on): ?Idea
    {
        foreach ([false, true] as $withDiscount) {
            if (
                $amount ===
                array_sum(array_map(static fn (OpenItem $i): int => self::worth($i, $withDiscount, $on), $items))
            ) {
                return new Idea(Why::Account, self::whole($items, $withDiscount, $on));
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
     * @return list<array<int, array{gross: int, discount: int}>>
     */
    private static function sums(int $amount, array $items, Day $on): array
    {
        $found = [];
        $discounted = [] !== array_filter($items, static fn (OpenItem $i): bool => 0 !== $i->discountOn($on));
        foreach ($discounted ? [false, true] : [false] as $withDiscount) {
            $worth = array_map(static fn (OpenItem $i): int => self::worth($i, $withDiscount, $on), $items);
            foreach (SumSearch::masks($amount, $worth, self::MOST_IN_SET) as $mask) {
                $set = array_values(
                    array_filter($items, static fn (int $k): bool => 0 !== (($mask >> $k) & 1), \ARRAY_FILTER_USE_KEY),
                );
                $placed = self::whole($set, $withDiscount, $on);
                if (!\in_array($placed, $found, true)) {
                    $found[] = $placed;
                }
                if (\count($found) > 1) {
                    return $found;
                }
            }
        }

        return $found;
    }

    private static function worth(OpenItem $item, bool $withDiscount, Day $on): int
    {
        return $item->open - ($withDiscount ? $item->discountOn($on) : 0);
    }

    /**
     * @param list<OpenItem> $items
     *
     * @return array<int, array{gross: int, discount: int}>
     */
    private static function whole(array $items, bool $withDiscount, Day $on): array
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
}
