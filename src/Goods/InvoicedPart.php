<?php

declare(strict_types=1);

namespace Nelbix\App\Goods;

use Brick\Math\BigDecimal;
use Nelbix\Core\Calendar\Day;

/** Delivered goods that a line of an invoice invoiced, and that may go back against a claim. */
final readonly class InvoicedPart
{
    public function __construct(
        public int $deliveryLine,
        public int $invoice,
        public int $position,
        public BigDecimal $quantity,
        public Day $invoicedOn,
    ) {
    }

    public function of(BigDecimal $quantity): self
    {
        return new self($this->deliveryLine, $this->invoice, $this->position, $quantity, $this->invoicedOn);
    }
}
