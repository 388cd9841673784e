<?php

declare(strict_types=1);

namespace Nelbix\Core\Pairing;

/** Rows of one side that go together: one row, rows that were summed first, or a whole group. There may be very many: it is small. */
final readonly class Unit
{
    /**
     * @param int|non-empty-list<int> $rows one row, or several
     * @param int $from first day of its rows, and $to the last, as Row counts them
     * @param string $key what must agree, spelled; null-byte apart
     */
    public function __construct(
        private int|array $rows,
        public int $amount,
        public int $from,
        public int $to,
        public string $key,
    ) {
    }

    /** @return non-empty-list<int> */
    public function ids(): array
    {
        return \is_int($this->rows) ? [$this->rows] : $this->rows;
    }

    /** @param non-empty-list<self> $units */
    public static function sum(array $units): self
    {
        if (1 === \count($units)) {
            return $units[0];
        }
        $ids = [];
        $amount = 0;
        $from = $units[0]->from;
        $to = $units[0]->to;
        foreach ($units as $u) {
            array_push($ids, ...$u->ids());
            $amount += $u->amount;
            $from = min($from, $u->from);
            $to = max($to, $u->to);
        }
        sort($ids);

        return new self($ids, $amount, $from, $to, $units[0]->key);
    }

    /** The same for units that pairing cannot tell apart. */
    public function likeness(): string
    {
        return implode("\0", [$this->amount, $this->from, $this->to, $this->key]);
    }

    /** How far each row of one is from each of the other at most, days. */
    public function apart(self $other): int
    {
        return max(abs($this->to - $other->from), abs($other->to - $this->from));
    }
}
