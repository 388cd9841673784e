<?php

declare(strict_types=1);

namespace Nelbix\App\Goods;

use Brick\Math\BigDecimal;
use Nelbix\Core\Ledger\Analysis;

/** A line of a delivery as it was read. */
final readonly class DeliveredLine
{
    /**
     * @param BigDecimal $price each, units of the delivery's currency
     * @param int $amount quantity × price, minor units
     * @param OrderedLine|null $ordered what it comes for; null for goods that nobody ordered
     */
    public function __construct(
        public int $account,
        public string $text,
        public BigDecimal $quantity,
        public BigDecimal $price,
        public int $amount,
        public Analysis $analysis,
        public string $unit,
        public ?OrderedLine $ordered,
    ) {
    }
}
