<?php

declare(strict_types=1);

namespace Nelbix\Core\Pairing;

/** What rules made of two sides. */
final readonly class Outcome
{
    /**
     * @param list<Pair> $pairs
     * @param list<int> $left rows that are over
     * @param list<int> $right
     * @param list<int> $tiedLeft of those, rows that several fit equally
     * @param list<int> $tiedRight
     */
    public function __construct(
        public array $pairs,
        public array $left,
        public array $right,
        public array $tiedLeft = [],
        public array $tiedRight = [],
    ) {
    }
}
