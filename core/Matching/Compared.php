<?php

declare(strict_types=1);

namespace Nelbix\Core\Matching;

use Brick\Math\BigDecimal;

/** A line of an invoice beside what was agreed and what came. */
final readonly class Compared
{
    /**
     * @param int|string $key of the line, as the caller knows it
     * @param BigDecimal|null $agreed price each of the order; null when nobody ordered it
     * @param BigDecimal $invoiced price each of the invoice, allowances of the line in it
     * @param BigDecimal|null $ordered quantity of the order's line
     * @param BigDecimal $total quantity that was invoiced of the order's line, this line in it
     * @param bool $received it came; else it waits for the delivery
     * @param BigDecimal $difference invoiced less agreed value, currency units of the base
     */
    public function __construct(
        public int|string $key,
        public ?BigDecimal $agreed,
        public BigDecimal $invoiced,
        public ?BigDecimal $ordered,
        public BigDecimal $total,
        public bool $received,
        public BigDecimal $difference,
    ) {
    }
}
