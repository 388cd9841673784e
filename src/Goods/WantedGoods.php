<?php

declare(strict_types=1);

namespace Nelbix\App\Goods;

use Brick\Math\BigDecimal;

/** Goods as a line of a vendor's paper or of a file names them. */
final readonly class WantedGoods
{
    /**
     * @param string $order number of our order; empty when the paper names none
     * @param string $note number of the vendor's delivery note, or of our delivery; empty when the paper names none
     * @param int|null $position of the order's line; null when the paper does not say which
     * @param BigDecimal $quantity above zero
     * @param BigDecimal|null $price each, in the currency of the paper
     */
    public function __construct(
        public string $order,
        public string $note,
        public ?int $position,
        public string $text,
        public BigDecimal $quantity,
        public ?BigDecimal $price,
    ) {
    }
}
