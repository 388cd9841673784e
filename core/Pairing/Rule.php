<?php

declare(strict_types=1);

namespace Nelbix\Core\Pairing;

use Brick\Math\BigDecimal;
use Brick\Math\RoundingMode;

/** A pairing rule: which rows belong together. Source: rules.md, Pairing. */
final readonly class Rule
{
    /** An amount below it, times a percent in thousandths, is a whole number still. */
    private const PLAIN = 90_000_000_000_000;

    private int $thousandths;

    /**
     * @param int $number by which pairs name it
     * @param list<string> $agree fields that must be the same on both sides, after case, punctuation and leading zeros are taken away
     * @param int $amountWithin how far the sums may be apart, minor units
     * @param BigDecimal|null $percentWithin the same in percent of the left sum; the amount counts when it is null
     * @param int|null $daysWithin how far each row of one side may be from each of the other; null for any
     * @param bool $sole only when neither has another candidate under this rule
     * @param bool $certain else a person is asked
     * @param list<Filter> $filters
     * @param string $leftSum field by which rows of the left side are summed first; empty for none
     */
    public function __construct(
        public int $number,
        public Rows $left = Rows::One,
        public Rows $right = Rows::One,
        public array $agree = [],
        public int $amountWithin = 0,
        public ?BigDecimal $percentWithin = null,
        public ?int $daysWithin = null,
        public bool $sole = false,
        public bool $certain = true,
        public array $filters = [],
        public string $leftSum = '',
        public string $rightSum = '',
    ) {
        $this->thousandths =
            null === $percentWithin || $percentWithin->getScale() > 3
                ? 0
                : $percentWithin->multipliedBy(1000)->toScale(0)->toInt();
    }

    /** How far a right sum may be from this left sum, minor units. */
    public function within(int $left): int
    {
        if (null === $this->percentWithin) {
            return $this->amountWithin;
        }

        // asked of every row: whole numbers as far as they are long enough
        return abs($left) < self::PLAIN && $this->percentWithin->getScale() <= 3
            ? intdiv(abs($left) * $this->thousandths, 100_000)
            : $this->percentWithin->multipliedBy(abs($left))->dividedBy(100, 0, RoundingMode::DOWN)->toInt();
    }

    /** How far a left sum may be from this right one at most, minor units: where the percent is of the left, more than within() says. */
    public function widest(int $right): int
    {
        if (null === $this->percentWithin) {
            return $this->amountWithin;
        }
        $rest = BigDecimal::of(100)->minus($this->percentWithin);

        return $rest->isPositive()
            ? $this->percentWithin->multipliedBy(abs($right))->dividedBy($rest, 0, RoundingMode::UP)->toInt() + 1
            : \PHP_INT_MAX >> 2;
    }

    public function fits(int $left, int $right): bool
    {
        return abs($left - $right) <= $this->within($left);
    }

    /** @return bool whether a row of a side takes part */
    public function lets(Row $row, string $side): bool
    {
        foreach ($this->filters as $filter) {
            if (('both' === $filter->side || $side === $filter->side) && !$filter->lets($row)) {
                return false;
            }
        }

        return true;
    }
}
