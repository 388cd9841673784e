<?php

declare(strict_types=1);

namespace Nelbix\Core\Pairing;

/** Rows that belong together. */
final readonly class Pair
{
    /**
     * @param non-empty-list<int> $left
     * @param non-empty-list<int> $right
     * @param int $rule number of the rule that took them
     * @param int $difference right − left, minor units
     */
    public function __construct(
        public array $left,
        public array $right,
        public int $rule,
        public bool $certain,
        public int $difference,
    ) {
    }
}
