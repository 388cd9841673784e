<?php

declare(strict_types=1);

namespace Nelbix\Core\Formats\Ubl;

use Brick\Math\BigDecimal;

/**
 * A line, or an allowance or charge on the whole document, which is a line without quantity. Source: EN 16931, BG-20, BG-21, BG-25.
 */
final readonly class ElectronicLine
{
    /**
     * @param int $net minor units; negative for an allowance
     * @param int $allowance what quantity × price was lowered by to reach $net; negative for a charge on the line (BG-27, BG-28)
     * @param string $orderLine the line of the order that it belongs to (BT-132)
     * @param string $category S standard, Z zero, E exempt, AE reverse charge, O outside (UNCL 5305)
     */
    public function __construct(
        public string $text,
        public int $net,
        public string $category,
        public BigDecimal $percent,
        public ?BigDecimal $quantity = null,
        public ?BigDecimal $price = null,
        public int $allowance = 0,
        public string $orderLine = '',
    ) {
    }
}
