<?php

declare(strict_types=1);

namespace Nelbix\Core\Aging;

/** A party's line of an aging, minor units. The total is all columns. */
final readonly class AgingRow
{
    /** @param list<int> $buckets */
    public function __construct(
        public int $party,
        public int $notDue,
        public array $buckets,
        public int $credits,
        public int $prepayments,
    ) {
    }

    public function total(): int
    {
        return $this->notDue + array_sum($this->buckets) + $this->credits + $this->prepayments;
    }
}
