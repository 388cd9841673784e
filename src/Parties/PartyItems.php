<?php

declare(strict_types=1);

namespace Nelbix\App\Parties;

use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Ledger\Side;

/** What a party has open, for its page. Kept behind an interface because parties do not know documents. */
interface PartyItems
{
    /**
     * @param Day $day for which the discounts are shown
     *
     * @return list<array<string, mixed>> by due date
     */
    public function ofParty(int $companyId, Side $side, int $partyId, Day $day): array;
}
