<?php

declare(strict_types=1);

namespace Nelbix\Core\TieOut;

use Nelbix\Core\Calendar\Day;

/** Compares a control account with its open items and explains the difference. Source: rules.md, Tie-out. */
final class TieOut
{
    /**
     * @param list<Movement> $differing movements up to the day whose ledger and items differ; the explanations add up to the difference
     * @param SignedOff|null $last what was signed off on or before the day: what explains it stands in two lines, of which the second is
     *                             what later postings changed of those days
     * @param Day|null $asOf the day, for what no source explains
     */
    public static function of(
        int $ledger,
        int $items,
        array $differing,
        ?SignedOff $last = null,
        ?Day $asOf = null,
    ): AccountTie {
        $explanations = [];
        $days = [];
        foreach ($differing as $m) {
            $amount = $m->ledger - $m->items;
            if (0 === $amount) {
                continue;
            }
            $why = match (true) {
                $m->bypass => Explanation::BYPASS,
                !$m->hasItem => Explanation::NO_ITEM,
                !$m->hasEntry => Explanation::NO_ENTRY,
                default => Explanation::BASE_DIFFERS,
            };
            $explanations[] = new Explanation($m->source, $m->date, $amount, $why, $m->text, $m->by);
            $days[$m->date] = ($days[$m->date] ?? 0) + $amount;
        }
        usort(
            $explanations,
            static fn (Explanation $a, Explanation $b): int => [$a->date, $a->source] <=> [$b->date, $b->source],
        );
        ksort($days);
        $running = 0;
        $byDay = [];
        foreach ($days as $day => $amount) {
            if (0 !== $amount) {
                $byDay[$day] = $running += $amount;
            }
        }

        $lines = null === $last ? $explanations : self::since($last, $explanations);
        $rest = $ledger - $items - array_sum(array_map(static fn (Explanation $e): int => $e->amount, $lines));
        if (0 !== $rest) {
            $lines[] = new Explanation('', $asOf?->iso() ?? '', $rest, Explanation::WITHIN);
        }

        return new AccountTie($ledger, $items, $lines, self::breakDay($byDay, $last->difference ?? 0), $byDay);
    }

    /**
     * @param list<Explanation> $explanations
     *
     * @return list<Explanation> with one line for what was signed off, and one for what moved of it since
     */
    private static function since(SignedOff $last, array $explanations): array
    {
        $day = $last->day->iso();
        $before = array_filter($explanations, static fn (Explanation $e): bool => $e->date <= $day);
        $moved = array_sum(array_map(static fn (Explanation $e): int => $e->amount, $before)) - $last->difference;
        $lines = [];
        foreach ([Explanation::SIGNED_OFF => $last->difference, Explanation::MOVED => $moved] as $why => $amount) {
            if (0 !== $amount) {
                $lines[] = new Explanation('', $day, $amount, $why);
            }
        }

        return [...$lines, ...array_values(array_diff_key($explanations, $before))];
    }

    /**
     * The first day of the last unbroken stretch in which the difference is away from what was signed off.
     *
     * @param array<string, int> $byDay rising
     */
    public static function breakDay(array $byDay, int $lastSignedOff): ?string
    {
        $break = null;
        foreach ($byDay as $day => $difference) {
            $break = $difference === $lastSignedOff ? null : $break ?? $day;
        }

        return $break;
    }
}
