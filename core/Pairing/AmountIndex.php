<?php

declare(strict_types=1);

namespace Nelbix\Core\Pairing;

/**
 * The rows of a side in order of what must agree, amount and day, so that those near another one are found without looking at all.
 * Kept in flat lists: there may be a hundred thousand.
 */
final class AmountIndex
{
    /** @var array<string, int> number of each key */
    private array $keys = [];

    /** @var list<int> where the rows of a key begin; one more at the end */
    private array $begin = [];

    /** @var list<int> amounts in their order within a key */
    private array $amounts = [];

    /** @var list<int> places in, in the same order */
    private array $places = [];

    /** @param list<Unit> $units */
    public function __construct(private readonly array $units)
    {
        $keys = $amounts = $days = $places = [];
        foreach ($units as $at => $u) {
            $keys[] = $this->keys[$u->key] ??= \count($this->keys);
            $amounts[] = $u->amount;
            $days[] = $u->from;
            $places[] = $at;
        }
        array_multisort($keys, $amounts, $days, $places);
        $last = -1;
        foreach ($keys as $at => $key) {
            if ($key !== $last) {
                $this->begin[] = $at;
                $last = $key;
            }
        }
        $this->begin[] = \count($keys);
        $this->amounts = $amounts;
        $this->places = $places;
    }

    /**
     * Those that agree, within so much and so many days, the nearest first. When there are more than $most the levels of nearness
     * behind it are left out, each level whole.
     *
     * @param int|null $days null for any
     *
     * @return list<int> place, amount and days apart of each, one after the other
     */
    public function near(Unit $unit, int $within, ?int $days, int $most): array
    {
        $key = $this->keys[$unit->key] ?? null;
        if (null === $key) {
            return [];
        }
        [$begin, $end] = [$this->begin[$key], $this->begin[$key + 1]];
        $up = $this->first($begin, $end, $unit->amount);
        $down = $up - 1;
        $found = [];
        while (\count($found) < 3 * min($most, 100_000)) {
            $above = $up < $end ? $this->amounts[$up] - $unit->amount : \PHP_INT_MAX;
            $below = $down >= $begin ? $unit->amount - $this->amounts[$down] : \PHP_INT_MAX;
            $off = min($above, $below);
            if ($off > $within || \PHP_INT_MAX === $off) {
                break;
            }
            if ($above === $off) {
                $run = $up;
                while ($up < $end && $this->amounts[$up] === $this->amounts[$run]) {
                    ++$up;
                }
                $this->add($found, $run, $up, $unit, $off, $days);
            }
            if ($below === $off) {
                $run = $down + 1;
                while ($down >= $begin && $this->amounts[$down] === $this->amounts[$run - 1]) {
                    --$down;
                }
                $this->add($found, $down + 1, $run, $unit, $off, $days);
            }
        }

        return \count($found) > 3 ? self::wholeLevels(array_chunk($found, 3), $most) : $found;
    }

    /**
     * Those of a run of equal amounts, in order of their first day, that are near enough.
     *
     * @param list<int> $found
     */
    private function add(array &$found, int $from, int $to, Unit $unit, int $off, ?int $days): void
    {
        if (null !== $days && $to - $from > 8) {
            // no row that begins before this day can be near enough
            $from = $this->firstOn($from, $to, $unit->to - $days);
        }
        for ($at = $from; $at < $to; ++$at) {
            $other = $this->units[$this->places[$at]];
            if (null !== $days && $other->from > $unit->from + $days) {
                return;
            }
            $apart = $unit->apart($other);
            if (null === $days || $apart <= $days) {
                array_push($found, $this->places[$at], $off, $apart);
            }
        }
    }

    /**
     * @param list<array<int>> $found
     *
     * @return list<int>
     */
    private static function wholeLevels(array $found, int $most): array
    {
        usort($found, static fn (array $a, array $b): int => [$a[1], $a[2], $a[0]] <=> [$b[1], $b[2], $b[0]]);
        $n = \count($found);
        if ($n > $most) {
            $last = [$found[$most - 1][1], $found[$most - 1][2]];
            for ($at = $most; $at < $n && [$found[$at][1], $found[$at][2]] === $last; ++$at) {
            }
            $found = \array_slice($found, 0, $at);
        }

        return array_values(array_merge(...$found));
    }

    /** The first place whose amount is not below. */
    private function first(int $low, int $high, int $amount): int
    {
        while ($low < $high) {
            $middle = intdiv($low + $high, 2);
            if ($this->amounts[$middle] < $amount) {
                $low = $middle + 1;
            } else {
                $high = $middle;
            }
        }

        return $low;
    }

    /** The first place of a run whose first day is not before. */
    private function firstOn(int $low, int $high, int $day): int
    {
        while ($low < $high) {
            $middle = intdiv($low + $high, 2);
            if ($this->units[$this->places[$middle]]->from < $day) {
                $low = $middle + 1;
            } else {
                $high = $middle;
            }
        }

        return $low;
    }
}
