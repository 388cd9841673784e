<?php

declare(strict_types=1);

namespace Nelbix\Core\Aging;

/** A line of an aging: a party's, an account's or a group's, minor units. The total is all columns. */
final readonly class AgingRow
{
    /** @param list<int> $buckets */
    public function __construct(
        public int|string $key,
        public int $notDue,
        public array $buckets,
        public int $credits,
        public int $prepayments,
    ) {
    }

    public static function zero(Bucketing $bucketing, int|string $key = 0): self
    {
        return new self($key, 0, array_fill(0, $bucketing->count(), 0), 0, 0);
    }

    public function plus(self $other): self
    {
        return new self(
            $this->key,
            $this->notDue + $other->notDue,
            array_map(static fn (int $a, int $b): int => $a + $b, $this->buckets, $other->buckets),
            $this->credits + $other->credits,
            $this->prepayments + $other->prepayments,
        );
    }

    public function total(): int
    {
        return $this->notDue + array_sum($this->buckets) + $this->credits + $this->prepayments;
    }
}
