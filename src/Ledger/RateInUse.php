<?php

declare(strict_types=1);

namespace Nelbix\App\Ledger;

use Nelbix\Core\Calendar\Day;

/** What was posted with a rate. Kept behind an interface because the ledger does not know documents. */
interface RateInUse
{
    /**
     * @param Day|null $before the day of the next rate; null when there is none
     *
     * @return string|null the number of a record that was posted with it from that day on; null when none was
     */
    public function by(int $companyId, string $currency, string $rate, Day $from, ?Day $before): ?string;
}
