<?php

declare(strict_types=1);

namespace Nelbix\Core\Pairing;

/** Any number with any number: whole groups that agree, nothing less. Source: rules.md, Pairing. */
final class WholeGroups
{
    /**
     * @param list<Unit> $left
     * @param list<Unit> $right
     */
    public static function pair(array $left, array $right, Rule $rule): Outcome
    {
        $groups = ['left' => [], 'right' => []];
        foreach (['left' => $left, 'right' => $right] as $side => $units) {
            foreach ($units as $unit) {
                $groups[$side][$unit->key][] = $unit;
            }
        }
        $pairs = [];
        foreach ($groups['left'] as $key => $of) {
            if (!isset($groups['right'][$key])) {
                continue;
            }
            [$l, $r] = [Unit::sum($of), Unit::sum($groups['right'][$key])];
            if (
                $rule->fits($l->amount, $r->amount)
                && (null === $rule->daysWithin || $l->apart($r) <= $rule->daysWithin)
            ) {
                $pairs[] = new Pair($l->ids(), $r->ids(), $rule->number, $rule->certain, $r->amount - $l->amount);
            }
        }

        return new Outcome($pairs, [], []);
    }
}
