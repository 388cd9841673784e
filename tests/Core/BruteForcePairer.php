<?php

declare(strict_types=1);

namespace Nelbix\Tests\Core;

use Nelbix\Core\Pairing\Row;
use Nelbix\Core\Pairing\Rows;
use Nelbix\Core\Pairing\Rule;

/** The rules of pairing read out word by word, everything with everything: slow, and nothing of it shared. Source: rules.md, Pairing. */
final class BruteForcePairer
{
    /**
     * @param list<Row> $left
     * @param list<Row> $right
     * @param list<Rule> $rules
     *
     * @return list<string> pairs as "1+2=3", in order
     */
    public static function said(array $left, array $right, array $rules): array
    {
        $said = [];
        foreach ($rules as $rule) {
            $pairs = match (true) {
                Rows::One === $rule->left && Rows::One === $rule->right => self::oneToOne($left, $right, $rule),
                Rows::Any === $rule->left && Rows::Any === $rule->right => self::groups($left, $right, $rule),
                default => self::oneToMany($left, $right, $rule),
            };
            foreach ($pairs as [$l, $r]) {
                $difference = self::sum($r) - self::sum($l);
                $said[] = self::ids($l).'='.self::ids($r).(0 === $difference ? '' : ' '.$difference);
                $left = array_filter($left, static fn (Row $x): bool => !\in_array($x, $l, true));
                $right = array_filter($right, static fn (Row $x): bool => !\in_array($x, $r, true));
            }
        }
        sort($said);

        return $said;
    }

    /** @param array<Row> $rows */
    private static function ids(array $rows): string
    {
        $ids = array_map(static fn (Row $r): int => $r->id, $rows);
        sort($ids);

        return implode('+', $ids);
    }

    /** @param array<Row> $rows */
    private static function sum(array $rows): int
    {
        return array_sum(array_map(static fn (Row $r): int => $r->amount, $rows));
    }

    private static function agree(Row $a, Row $b, Rule $rule): bool
    {
        foreach ($rule->agree as $field) {
            if (($a->fields[$field] ?? '') !== ($b->fields[$field] ?? '') || '' === ($a->fields[$field] ?? '')) {
                return false;
            }
        }

        return true;
    }

    /**
     * @param array<Row> $left
     * @param array<Row> $right
     */
    private static function may(array $left, array $right, Rule $rule): bool
    {
        foreach ($left as $l) {
            foreach ($right as $r) {
                if (
                    !self::agree($l, $r, $rule)
                    || (null !== $rule->daysWithin && abs($l->day - $r->day) > $rule->daysWithin)
                ) {
                    return false;
                }
            }
        }
        $off = abs(self::sum($left) - self::sum($right));

        return null === $rule->percentWithin
            ? $off <= $rule->amountWithin
            : $off * 100 <= $rule->percentWithin->toInt() * abs(self::sum($left));
    }

    /**
     * @param array<Row> $left
     * @param array<Row> $right
     *
     * @return list<array{list<Row>, list<Row>}>
     */
    private static function oneToOne(array $left, array $right, Rule $rule): array
    {
        $edges = [];
        foreach ($left as $l) {
            foreach ($right as $r) {
                if (self::may([$l], [$r], $rule)) {
                    $edges[] = [$l, $r, abs($l->amount - $r->amount), abs($l->day - $r->day)];
                }
            }
        }
        $pairs = [];
        if ($rule->sole) {
            foreach ($edges as [$l, $r]) {
                $others = array_filter($edges, static fn (array $e): bool => $e[0] === $l || $e[1] === $r);
                if (1 === \count($others)) {
                    $pairs[] = [[$l], [$r]];
                }
            }

            return $pairs;
        }
        while ([] !== $edges) {
            $nearest = min(array_map(static fn (array $e): array => [$e[2], $e[3]], $edges));
            $level = array_filter($edges, static fn (array $e): bool => [$e[2], $e[3]] === $nearest);
            $gone = [];
            foreach ($level as [$l, $r]) {
                $same = array_filter($level, static fn (array $e): bool => $e[0] === $l || $e[1] === $r);
                if (1 === \count($same)) {
                    $pairs[] = [[$l], [$r]];
                }
                array_push($gone, $l, $r);
            }
            array_push($pairs, ...self::twins(array_values($level), $rule));
            $edges = array_filter(
                $edges,
                static fn (array $e): bool => !\in_array($e[0], $gone, true) && !\in_array($e[1], $gone, true),
            );
        }

        return $pairs;
    }

    /**
     * Whatever hangs together on a level, when it is as many here as there, more than one, and all alike on its side.
     *
     * @param list<array{Row, Row, int, int}> $level
     *
     * @return list<array{list<Row>, list<Row>}>
     */
    private static function twins(array $level, Rule $rule): array
    {
        $alike = static function (array $rows) use ($rule): bool {
            foreach ($rows as $row) {
                if (
                    $row->amount !== $rows[0]->amount
                    || $row->day !== $rows[0]->day
                    || !self::agree($row, $rows[0], $rule)
                ) {
                    return false;
                }
            }

            return true;
        };
        $groups = [];
        while ([] !== $level) {
            [$l, $r] = [[$level[0][0]], [$level[0][1]]];
            do {
                $before = \count($l) + \count($r);
                foreach ($level as $edge) {
                    if (\in_array($edge[0], $l, true) || \in_array($edge[1], $r, true)) {
                        \in_array($edge[0], $l, true) || ($l[] = $edge[0]);
                        \in_array($edge[1], $r, true) || ($r[] = $edge[1]);
                    }
                }
            } while (\count($l) + \count($r) > $before);
            if (\count($l) === \count($r) && \count($l) > 1 && $alike($l) && $alike($r)) {
                $groups[] = [$l, $r];
            }
            $level = array_values(array_filter($level, static fn (array $e): bool => !\in_array($e[0], $l, true)));
        }

        return $groups;
    }

    /**
     * @param array<Row> $left
     * @param array<Row> $right
     *
     * @return list<array{list<Row>, list<Row>}>
     */
    private static function oneToMany(array $left, array $right, Rule $rule): array
    {
        $turned = Rows::Any === $rule->left;
        [$ones, $many] = $turned ? [$right, $left] : [$left, $right];
        $may = static fn (Row $one, array $set): bool => $turned
            ? self::may($set, [$one], $rule)
            : self::may([$one], $set, $rule);
        $chosen = [];
        foreach ($ones as $one) {
            $group = array_values(array_filter($many, static fn (Row $m): bool => self::agree($one, $m, $rule)));
            if ([] === $group) {
                continue;
            }
            if ($may($one, $group)) {
                $chosen[] = [$one, $group];
                continue;
            }
            $sets = [];
            for ($mask = 1; $mask < 1 << \count($group); ++$mask) {
                $set = array_values(
                    array_filter($group, static fn (int $k): bool => 0 !== (($mask >> $k) & 1), \ARRAY_FILTER_USE_KEY),
                );
                if (\count($set) <= 8 && $may($one, $set)) {
                    $sets[] = $set;
                }
            }
            if (1 === \count($sets)) {
                $chosen[] = [$one, $sets[0]];
            }
        }
        $pairs = [];
        foreach ($chosen as $k => [$one, $set]) {
            $rivals = array_filter(
                $chosen,
                static fn (array $c, int $n): bool => $n !== $k
                    && [] !== array_filter($c[1], static fn (Row $r): bool => \in_array($r, $set, true)),
                \ARRAY_FILTER_USE_BOTH,
            );
            if ([] === $rivals) {
                $pairs[] = $turned ? [$set, [$one]] : [[$one], $set];
            }
        }

        return $pairs;
    }

    /**
     * @param array<Row> $left
     * @param array<Row> $right
     *
     * @return list<array{list<Row>, list<Row>}>
     */
    private static function groups(array $left, array $right, Rule $rule): array
    {
        $by = static function (array $rows) use ($rule): array {
            $groups = [];
            foreach ($rows as $row) {
                $groups[
                    implode('|', array_map(static fn (string $f): string => $row->fields[$f] ?? '', $rule->agree))
                ][] = $row;
            }

            return $groups;
        };
        $pairs = [];
        $rights = $by($right);
        foreach ($by($left) as $key => $group) {
            if (isset($rights[$key]) && self::may($group, $rights[$key], $rule)) {
                $pairs[] = [$group, $rights[$key]];
            }
        }

        return $pairs;
    }
}
