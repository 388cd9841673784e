<?php

declare(strict_types=1);

namespace Nelbix\App\Goods;

use Brick\Math\BigDecimal;

/** What a line of an invoice waits for, as it is posted. */
final readonly class Awaiting
{
    /**
     * @param int $position of the document's line
     * @param int $control invoiced-not-received
     * @param int $variance account of what is invoiced more or less than is accrued when it comes
     * @param int $amount net of the line, minor units of the document's currency
     * @param int $base the same as it was posted, base minor units
     */
    public function __construct(
        public int $orderLine,
        public int $position,
        public BigDecimal $quantity,
        public int $control,
        public int $variance,
        public int $amount,
        public int $base,
    ) {
    }
}
