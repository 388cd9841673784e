<?php

declare(strict_types=1);

namespace Nelbix\App\Parties;

/** Whether a party has anything open. Kept behind an interface because parties do not know documents. */
interface PartyItems
{
    public function hasOpen(int $partyId): bool;
}
