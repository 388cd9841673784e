<?php

declare(strict_types=1);

namespace Nelbix\Core\Matching;

use Brick\Math\BigDecimal;

/** What an invoice may differ by from what was ordered and received, for a vendor. Source: rules.md, Matching. */
final readonly class Tolerances
{
    /**
     * @param Tolerance $price percent of the agreed price, and currency units each
     * @param Tolerance $quantity percent of the ordered quantity, and units
     * @param BigDecimal|null $total what all differences of an invoice may come to, base currency units; null when there is no bound
     */
    public function __construct(public Tolerance $price, public Tolerance $quantity, public ?BigDecimal $total)
    {
    }

    public function overriddenBy(self $own): self
    {
        return new self(
            $this->price->overriddenBy($own->price),
            $this->quantity->overriddenBy($own->quantity),
            $own->total ?? $this->total,
        );
    }
}
