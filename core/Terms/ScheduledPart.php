<?php

declare(strict_types=1);

namespace Nelbix\Core\Terms;

use Nelbix\Core\Calendar\Day;

/** One part of a document as its terms schedule it; a document without instalments has one. */
final readonly class ScheduledPart
{
    /**
     * @param int $amount minor units
     * @param int $discountBase minor units: what the discount percent applies to
     * @param list<DatedDiscount> $discounts earliest first
     */
    public function __construct(
        public Day $due,
        public int $amount,
        public int $discountBase,
        public array $discounts,
    ) {
    }
}
