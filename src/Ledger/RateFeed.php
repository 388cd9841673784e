<?php

declare(strict_types=1);

namespace Nelbix\App\Ledger;

use Nelbix\Core\Calendar\Day;

/** Who publishes the reference rates of a day. */
interface RateFeed
{
    /** @return string the file of the last day on or before this one on which rates were published, as EcbRates reads it */
    public function publishedOn(Day $day): string;
}
