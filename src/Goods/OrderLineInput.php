<?php

declare(strict_types=1);

namespace Nelbix\App\Goods;

use Brick\Math\BigDecimal;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Ledger\Analysis;

/** A line of an order as it was read. */
final readonly class OrderLineInput
{
    /**
     * @param int|null $id of the line that it changes; null for a new one
     * @param BigDecimal $price each, units of the order's currency
     * @param int $amount quantity × price, minor units
     */
    public function __construct(
        public ?int $id,
        public bool $service,
        public int $account,
        public string $text,
        public BigDecimal $quantity,
        public string $unit,
        public BigDecimal $price,
        public int $amount,
        public ?int $taxCode,
        public Analysis $analysis,
        public ?Day $wantedBy,
    ) {
    }
}
