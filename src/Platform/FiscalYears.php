<?php

declare(strict_types=1);

namespace Nelbix\App\Platform;

use Nelbix\Core\Calendar\Day;

/** The fiscal year that a day lies in. Kept behind an interface because the platform does not know periods. */
interface FiscalYears
{
    /** Null when the books have no period for the day. */
    public function of(int $companyId, Day $day): ?int;
}
