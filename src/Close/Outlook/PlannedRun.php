<?php

declare(strict_types=1);

namespace Nelbix\App\Close\Outlook;

use Nelbix\Core\Calendar\Day;

/** A run that is planned and has not paid yet. */
final readonly class PlannedRun
{
    /**
     * @param int $amount what it will pay, minor units of the base currency
     * @param string $state of the proposal
     */
    public function __construct(
        public int $id,
        public string $number,
        public Day $day,
        public int $amount,
        public string $state,
    ) {
    }
}
