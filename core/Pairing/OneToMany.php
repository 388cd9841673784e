<?php

declare(strict_types=1);

namespace Nelbix\Core\Pairing;

/**
 * One row with any number of the other side: those that agree are taken whole if their sum fits, else the one subset that does, of at
 * most 8 of 30 rows. Two subsets that fit, and rows that two want, are a tie. Source: rules.md, Pairing.
 */
final class OneToMany
{
    /**
     * @param list<Unit> $ones
     * @param list<Unit> $many
     * @param bool $turned the ones are of the right side
     */
    public static function pair(array $ones, array $many, Rule $rule, bool $turned): Outcome
    {
        $groups = [];
        foreach ($many as $unit) {
            $groups[$unit->key][] = $unit;
        }
        $whole = array_map(Unit::sum(...), $groups);
        $taken = $tiedOnes = $tiedMany = [];
        foreach ($ones as $one) {
            if (!isset($groups[$one->key])) {
                continue;
            }
            $sets = self::sets($one, $groups[$one->key], $whole[$one->key], $rule, $turned);
            if (1 === \count($sets)) {
                $taken[] = [$one, $sets[0]];
            } elseif (\count($sets) > 1) {
                array_push($tiedOnes, ...$one->ids());
                array_push($tiedMany, ...$sets[0]->ids(), ...$sets[1]->ids());
            }
        }
        $wanted = [];
        foreach ($taken as [, $set]) {
            foreach ($set->ids() as $id) {
                $wanted[$id] = ($wanted[$id] ?? 0) + 1;
            }
        }
        $pairs = [];
        foreach ($taken as [$one, $set]) {
            if ([] !== array_filter($set->ids(), static fn (int $id): bool => $wanted[$id] > 1)) {
                array_push($tiedOnes, ...$one->ids());
                array_push($tiedMany, ...$set->ids());
                continue;
            }
            [$l, $r] = $turned ? [$set, $one] : [$one, $set];
            $pairs[] = new Pair($l->ids(), $r->ids(), $rule->number, $rule->certain, $r->amount - $l->amount);
        }

        return $turned
            ? new Outcome($pairs, [], [], array_values(array_unique($tiedMany)), $tiedOnes)
            : new Outcome($pairs, [], [], $tiedOnes, array_values(array_unique($tiedMany)));
    }

    /**
     * @param non-empty-list<Unit> $group
     *
     * @return list<Unit> the whole group when it fits; else the subsets that do, two at most
     */
    private static function sets(Unit $one, array $group, Unit $whole, Rule $rule, bool $turned): array
    {
        $near = static fn (Unit $u): bool => null === $rule->daysWithin || $one->apart($u) <= $rule->daysWithin;
        $fits = static fn (int $sum): bool => $turned
            ? $rule->fits($sum, $one->amount)
            : $rule->fits($one->amount, $sum);
        if ($near($whole) && $fits($whole->amount)) {
            return [$whole];
        }
        $pool = \count($group) > 10_000 ? [] : array_values(array_filter($group, $near));
        if ([] === $pool || \count($pool) > Subsets::MOST_ROWS) {
            return [];
        }
        // where the percent is of what is summed, the widest that could fit is looked through, and each is asked again
        $within = $turned ? $rule->widest($one->amount) : $rule->within($one->amount);

        return array_map(
            static fn (array $places): Unit => Unit::sum(array_map(static fn (int $k): Unit => $pool[$k], $places)),
            Subsets::near($one->amount, array_map(static fn (Unit $u): int => $u->amount, $pool), $within, $fits),
        );
    }
}
