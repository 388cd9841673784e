<?php

declare(strict_types=1);

namespace Nelbix\Core\Tax;

/** The taxed lines of a document. total = Σ line nets + Σ tax that is charged (not under reverse charge). */
final readonly class TaxResult
{
    /**
     * @param array<int, int> $lineNets net of each line, minor units, under the line's key
     * @param array<int, int> $lineUnrecoverable tax each line carries because it cannot be recovered
     * @param array<string, TaxLine> $taxes by code
     * @param int $net Σ line nets
     * @param int $tax tax that is part of the total
     */
    public function __construct(
        public array $lineNets,
        public array $lineUnrecoverable,
        public array $taxes,
        public int $net,
        public int $tax,
    ) {
    }

    public function total(): int
    {
        return $this->net + $this->tax;
    }
}
