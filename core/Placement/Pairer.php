<?php

declare(strict_types=1);

namespace Nelbix\Core\Placement;

use Nelbix\Core\OpenItems\OpenItem;

/**
 * Proposes what credits and unapplied money of one party fit, for many parties at once: first the pairs that are sole on both sides, then
 * what the rules for a receipt find for each credit that is left, the oldest first. No item is in two proposals, and each uses its credit
 * up. Source: rules.md, Proposing where a receipt goes; Pairing, One to one, sole.
 */
final class Pairer
{
    /**
     * @param list<OpenItem> $items of one party, side and currency
     * @param array<int, string> $texts the payer's words, by credit
     *
     * @return list<Pairing>
     */
    public static function of(array $items, array $texts): array
    {
        $credits = $owed = [];
        foreach ($items as $item) {
            if ($item->open < 0) {
                $credits[$item->id] = $item;
            } elseif ($item->open > 0) {
                $owed[$item->id] = $item;
            }
        }
        $pairs = self::sole($credits, $owed);
        foreach ($pairs as $pair) {
            unset($credits[$pair->credit->id]);
            $owed = array_diff_key($owed, $pair->idea->placed);
        }
        uasort(
            $credits,
            static fn (OpenItem $a, OpenItem $b): int => [$a->posted->iso(), $a->id] <=> [$b->posted->iso(), $b->id],
        );
        foreach ($credits as $credit) {
            $idea = self::idea($credit, $texts[$credit->id] ?? '', $owed);
            if (null !== $idea) {
                $pairs[] = new Pairing($credit, $idea);
                $owed = array_diff_key($owed, $idea->placed);
            }
        }

        return $pairs;
    }

    /**
     * @param array<int, OpenItem> $credits
     * @param array<int, OpenItem> $owed
     *
     * @return list<Pairing>
     */
    private static function sole(array $credits, array $owed): array
    {
        $byAmount = [];
        foreach ($owed as $id => $item) {
            $byAmount[$item->open][$id] = true;
            // what an item comes to with a discount depends on the day of the money, so all of its steps are kept
            foreach ($item->discount->steps ?? [] as $step) {
                $byAmount[$item->open - $item->discountOn($step->through)][$id] = true;
            }
        }
        $fits = $takers = [];
        foreach ($credits as $credit) {
            foreach (array_keys($byAmount[-$credit->open] ?? []) as $id) {
                $discount = self::discount($credit, $owed[$id]);
                if (null !== $discount) {
                    $fits[$credit->id][$id] = $discount;
                    $takers[$id][] = $credit->id;
                }
            }
        }
        $pairs = [];
        foreach ($fits as $creditId => $items) {
            $id = (int) array_key_first($items);
            if (1 === \count($items) && 1 === \count($takers[$id])) {
                $pairs[] = new Pairing(
                    $credits[$creditId],
                    new Idea(Why::Amount, [$id => ['gross' => $owed[$id]->open, 'discount' => $items[$id]]]),
                );
            }
        }

        return $pairs;
    }

    /** The discount with which a credit settles all of an item; null when it does not fit. Credits without money earn none. */
    private static function discount(OpenItem $credit, OpenItem $item): ?int
    {
        $earned = null === $credit->moved ? 0 : $item->discountOn($credit->moved);

        return match (-$credit->open) {
            $item->open => 0,
            $item->open - $earned => $earned,
            default => null,
        };
    }

    /** @param array<int, OpenItem> $owed */
    private static function idea(OpenItem $credit, string $text, array $owed): ?Idea
    {
        $amount = -$credit->open;
        $bare =
            null === $credit->moved
                ? array_map(static fn (OpenItem $i): OpenItem => $i->withoutDiscount(), $owed)
                : $owed;
        foreach (Placer::ideas($amount, $text, array_values($bare), $credit->moved ?? $credit->posted) as $idea) {
            $net = array_sum(array_map(static fn (array $p): int => $p['gross'] - $p['discount'], $idea->placed));
            // what leaves a rest for somebody to decide on is no pair
            if ($net === $amount && !\in_array($idea->why, [Why::Lapsed, Why::Charge], true)) {
                return $idea;
            }
        }

        return null;
    }
}
