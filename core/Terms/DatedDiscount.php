<?php

declare(strict_types=1);

namespace Nelbix\Core\Terms;

use Brick\Math\BigDecimal;
use Nelbix\Core\Calendar\Day;

/** A discount step on the calendar: this percent, through this day (grace not counted), worth this much on the whole part. */
final readonly class DatedDiscount
{
    /** @param int $amount minor units */
    public function __construct(public Day $through, public BigDecimal $percent, public int $amount)
    {
    }
}
