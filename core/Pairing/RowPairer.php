<?php

declare(strict_types=1);

namespace Nelbix\Core\Pairing;

/**
 * Pairs the rows of two sides by rules, in their order; a rule sees what no earlier one took. The position of a row never decides:
 * what several fit equally is a tie and stays. Source: rules.md, Pairing.
 */
final class RowPairer
{
    /**
     * @param list<Row> $left
     * @param list<Row> $right
     * @param list<Rule> $rules
     */
    public static function pair(array $left, array $right, array $rules): Outcome
    {
        // values without circles by the hundred thousand: the collector of circles would look through them again and again
        $collects = gc_enabled();
        gc_disable();
        try {
            return self::byRules($left, $right, $rules);
        } finally {
            if ($collects) {
                gc_enable();
            }
        }
    }

    /**
     * @param list<Row> $left
     * @param list<Row> $right
     * @param list<Rule> $rules
     */
    private static function byRules(array $left, array $right, array $rules): Outcome
    {
        $pairs = $tiedLeft = $tiedRight = [];
        $left = self::byId($left);
        $right = self::byId($right);
        foreach ($rules as $rule) {
            $found = self::byRule($left, $right, $rule);
            foreach ($found->pairs as $pair) {
                $pairs[] = $pair;
                foreach ($pair->left as $id) {
                    unset($left[$id]);
                }
                foreach ($pair->right as $id) {
                    unset($right[$id]);
                }
            }
            array_push($tiedLeft, ...$found->tiedLeft);
            array_push($tiedRight, ...$found->tiedRight);
        }

        return new Outcome(
            $pairs,
            array_keys($left),
            array_keys($right),
            array_values(array_filter(array_unique($tiedLeft), static fn (int $id): bool => isset($left[$id]))),
            array_values(array_filter(array_unique($tiedRight), static fn (int $id): bool => isset($right[$id]))),
        );
    }

    /**
     * What one rule takes of rows that are free.
     *
     * @param array<int, Row> $left by id
     * @param array<int, Row> $right
     */
    public static function byRule(array $left, array $right, Rule $rule): Outcome
    {
        $l = self::units($left, $rule, 'left', $rule->leftSum);
        $r = self::units($right, $rule, 'right', $rule->rightSum);
        $found = match (true) {
            Rows::Any === $rule->left && Rows::Any === $rule->right => WholeGroups::pair($l, $r, $rule),
            Rows::One === $rule->left && Rows::One === $rule->right => OneToOne::pair($l, $r, $rule),
            Rows::One === $rule->left => OneToMany::pair($l, $r, $rule, false),
            default => OneToMany::pair($r, $l, $rule, true),
        };

        return new Outcome($found->pairs, [], [], $found->tiedLeft, $found->tiedRight);
    }

    /**
     * @param list<Row> $rows
     *
     * @return array<int, Row> by id, in its order, so that where a row stands decides nothing
     */
    private static function byId(array $rows): array
    {
        $by = [];
        foreach ($rows as $row) {
            $by[$row->id] = $row;
        }
        ksort($by);

        return $by;
    }

    /**
     * The rows that take part: one each, or summed by a field first. A sum whose rows do not agree in a field that both sides must
     * share takes no part.
     *
     * @param array<int, Row> $rows
     *
     * @return list<Unit>
     */
    private static function units(array $rows, Rule $rule, string $side, string $sumBy): array
    {
        $units = $groups = [];
        foreach ($rows as $row) {
            if (!$rule->lets($row, $side)) {
                continue;
            }
            $key = self::key($row, $rule->agree);
            if (null === $key) {
                continue;
            }
            $unit = new Unit($row->id, $row->amount, $row->day, $row->day, $key);
            if ('' === $sumBy || '' === ($row->fields[$sumBy] ?? '')) {
                $units[] = $unit;
            } else {
                $groups[self::spelled($row->fields[$sumBy])][] = $unit;
            }
        }
        foreach ($groups as $group) {
            if (1 === \count(array_unique(array_map(static fn (Unit $u): string => $u->key, $group)))) {
                $units[] = Unit::sum($group);
            }
        }

        return $units;
    }

    /**
     * What must agree, spelled; null when one of the fields is empty: nothing agrees with what is not there.
     *
     * @param list<string> $agree
     */
    private static function key(Row $row, array $agree): ?string
    {
        $key = [];
        foreach ($agree as $field) {
            $spelled = match (true) {
                isset($row->fields[$field]) => self::spelled($row->fields[$field]),
                'date' === $field => (string) $row->day,
                // with its sign, which spelling takes away
                'amount' === $field => (string) $row->amount,
                default => '',
            };
            if ('' === $spelled) {
                return null;
            }
            $key[] = $spelled;
        }

        return implode("\0", $key);
    }

    /** Without case, punctuation and leading zeros, as numbers are compared everywhere. */
    public static function spelled(string $value): string
    {
        return ltrim(mb_strtoupper((string) preg_replace('/[^\p{L}\p{N}]+/u', '', $value)), '0');
    }
}
