<?php

declare(strict_types=1);

namespace Nelbix\Core\Pairing;

/**
 * One row with one row. With sole, only if neither has another candidate; else the nearest amount, then the nearest day, first, and
 * candidates that are equally near are a tie and stay. But as many rows here as there that are all alike on their side are one pair
 * together: whichever went with which, it would be the same. Source: rules.md, Pairing; twins: common practice.
 */
final class OneToOne
{
    /** So many candidates of a row are looked at, the nearest first and a level of nearness always whole. */
    private const MOST = 64;

    /**
     * @param list<Unit> $left
     * @param list<Unit> $right
     */
    public static function pair(array $left, array $right, Rule $rule): Outcome
    {
        $candidates = self::candidates($left, new AmountIndex($right), $rule, $rule->sole ? 2 : self::MOST);

        return $rule->sole
            ? self::sole($left, $right, $candidates, $rule)
            : self::nearest($left, $right, $candidates, $rule);
    }

    /**
     * @param list<Unit> $left
     *
     * @return array<int, list<int>> by place of the left one: place of the right one, amount and days apart, one after the other
     */
    private static function candidates(array $left, AmountIndex $right, Rule $rule, int $most): array
    {
        $candidates = [];
        foreach ($left as $at => $unit) {
            $found = $right->near($unit, $rule->within($unit->amount), $rule->daysWithin, $most);
            if ([] !== $found) {
                $candidates[$at] = $found;
            }
        }

        return $candidates;
    }

    /**
     * @param list<Unit> $left
     * @param list<Unit> $right
     * @param array<int, list<int>> $candidates
     */
    private static function sole(array $left, array $right, array $candidates, Rule $rule): Outcome
    {
        $lefts = new AmountIndex($left);
        $pairs = $tiedLeft = $tiedRight = [];
        foreach ($candidates as $l => $found) {
            if (3 === \count($found) && self::isSole($right[$found[0]], $left, $lefts, $rule)) {
                $pairs[] = self::paired($left[$l], $right[$found[0]], $rule);
                continue;
            }
            array_push($tiedLeft, ...$left[$l]->ids());
            for ($at = 0, $n = \count($found); $at < $n; $at += 3) {
                array_push($tiedRight, ...$right[$found[$at]]->ids());
            }
        }

        return new Outcome($pairs, [], [], $tiedLeft, $tiedRight);
    }

    /**
     * Whether just one left row looks at a right one.
     *
     * @param list<Unit> $left
     */
    private static function isSole(Unit $right, array $left, AmountIndex $lefts, Rule $rule): bool
    {
        // a percent is of the left sum, so those that look from afar are asked one by one
        $most = null === $rule->percentWithin ? 2 : \PHP_INT_MAX;
        $found = $lefts->near($right, $rule->widest($right->amount), $rule->daysWithin, $most);

        $fit = 0;
        for ($at = 0, $n = \count($found); $at < $n && $fit < 2; $at += 3) {
            $fit += $rule->fits($left[$found[$at]]->amount, $right->amount) ? 1 : 0;
        }

        return 1 === $fit;
    }

    /**
     * Level by level of nearness: where just two want each other they are paired, where more do it is a tie.
     *
     * @param list<Unit> $left
     * @param list<Unit> $right
     * @param array<int, list<int>> $candidates
     */
    private static function nearest(array $left, array $right, array $candidates, Rule $rule): Outcome
    {
        $levels = [];
        foreach ($candidates as $l => $found) {
            for ($at = 0, $n = \count($found); $at < $n; $at += 3) {
                // both places in one number
                $levels[$found[$at + 1]][$found[$at + 2]][] = ($l << 32) | $found[$at];
            }
        }
        ksort($levels);
        $doneLeft = $doneRight = $pairs = $tiedLeft = $tiedRight = [];
        foreach ($levels as $byDays) {
            ksort($byDays);
            foreach ($byDays as $edges) {
                $wantLeft = $wantRight = $free = [];
                foreach ($edges as $edge) {
                    [$l, $r] = [$edge >> 32, $edge & 0xFFFFFFFF];
                    if (!isset($doneLeft[$l]) && !isset($doneRight[$r])) {
                        $free[] = $edge;
                        $wantLeft[$l] = ($wantLeft[$l] ?? 0) + 1;
                        $wantRight[$r] = ($wantRight[$r] ?? 0) + 1;
                    }
                }
                $twins = self::twins($free, $wantLeft, $wantRight, $left, $right, $rule);
                array_push($pairs, ...$twins['pairs']);
                foreach ($free as $edge) {
                    [$l, $r] = [$edge >> 32, $edge & 0xFFFFFFFF];
                    $doneLeft[$l] = $doneRight[$r] = true;
                    if (1 === $wantLeft[$l] && 1 === $wantRight[$r]) {
                        $pairs[] = self::paired($left[$l], $right[$r], $rule);
                    } elseif (!isset($twins['left'][$l])) {
                        array_push($tiedLeft, ...$left[$l]->ids());
                        array_push($tiedRight, ...$right[$r]->ids());
                    }
                }
            }
        }

        return new Outcome($pairs, [], [], $tiedLeft, $tiedRight);
    }

    /**
     * Of what several want: groups of rows that cannot be told apart on either side, as many here as there, and wanted by nobody else.
     *
     * @param list<int> $edges both places in one number
     * @param array<int, int> $wantLeft how many right ones a left one is as near to
     * @param array<int, int> $wantRight
     * @param list<Unit> $left
     * @param list<Unit> $right
     *
     * @return array{pairs: list<Pair>, left: array<int, true>} the pairs, and the places of the left rows in them
     */
    private static function twins(
        array $edges,
        array $wantLeft,
        array $wantRight,
        array $left,
        array $right,
        Rule $rule,
    ): array {
        $lefts = $rights = [];
        foreach ($edges as $edge) {
            [$l, $r] = [$edge >> 32, $edge & 0xFFFFFFFF];
            if ($wantLeft[$l] > 1) {
                $alike = $left[$l]->likeness()."\0\0".$right[$r]->likeness();
                $lefts[$alike][$l] = $left[$l];
                $rights[$alike][$r] = $right[$r];
            }
        }
        $found = ['pairs' => [], 'left' => []];
        foreach ($lefts as $alike => $l) {
            $r = $rights[$alike];
            $n = \count($l);
            $wanted = [...array_intersect_key($wantLeft, $l), ...array_intersect_key($wantRight, $r)];
            if ([] !== array_filter($wanted, static fn (int $by): bool => $by !== $n)) {
                continue;
            }
            $found['left'] += array_fill_keys(array_keys($l), true);
            $found['pairs'][] = self::paired(Unit::sum(array_values($l)), Unit::sum(array_values($r)), $rule);
        }

        return $found;
    }

    private static function paired(Unit $left, Unit $right, Rule $rule): Pair
    {
        return new Pair($left->ids(), $right->ids(), $rule->number, $rule->certain, $right->amount - $left->amount);
    }
}
