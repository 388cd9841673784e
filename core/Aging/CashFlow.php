<?php

declare(strict_types=1);

namespace Nelbix\Core\Aging;

use Nelbix\Core\Calendar\Day;

/** Money that is expected to come or to go. */
final readonly class CashFlow
{
    public Day $early;
    public Day $late;

    /**
     * @param string $kind under which it is summed
     * @param int $amount minor units of the base currency; positive comes in, negative goes out
     * @param Day $usual the day it is expected on
     * @param Day|null $early it may come from this day on; null: on the usual day
     * @param Day|null $late it may take until this day; null: the usual day
     */
    public function __construct(
        public string $kind,
        public int $amount,
        public Day $usual,
        ?Day $early = null,
        ?Day $late = null,
    ) {
        $this->early = $early ?? $usual;
        $this->late = $late ?? $usual;
    }
}
