<?php

declare(strict_types=1);

namespace Nelbix\Core\TieOut;

/** The tie-out of one control account as of a day. difference = ledger − items = Σ explanations. */
final readonly class AccountTie
{
    /**
     * @param list<Explanation> $explainedBy
     * @param array<string, int> $byDay difference after each day on which it changed, ISO day => amount, rising
     */
    public function __construct(
        public int $ledger,
        public int $items,
        public array $explainedBy,
        public ?string $breakDay,
        public array $byDay,
    ) {
    }

    public function difference(): int
    {
        return $this->ledger - $this->items;
    }
}
