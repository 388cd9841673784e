<?php

declare(strict_types=1);

namespace Nelbix\Core\Terms;

use Brick\Math\BigDecimal;

/** A percentage and the step it belongs to: a discount step ("2 % within 10 days") or an instalment ("30 % at 60 days"). */
final readonly class PercentStep
{
    public function __construct(public BigDecimal $percent, public Step $step)
    {
    }
}
