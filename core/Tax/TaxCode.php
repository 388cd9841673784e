<?php

declare(strict_types=1);

namespace Nelbix\Core\Tax;

use Brick\Math\BigDecimal;

/** What a tax code says. Rates and percentages are exact decimals. Source: rules.md, Tax. */
final readonly class TaxCode
{
    public function __construct(
        public string $code,
        public BigDecimal $rate,
        public bool $inclusive = false,
        public ?BigDecimal $recoverablePercent = null,
        public bool $reverseCharge = false,
        public bool $discountCorrectsTax = false,
    ) {
    }
}
