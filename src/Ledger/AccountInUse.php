<?php

declare(strict_types=1);

namespace Nelbix\App\Ledger;

/** Whether a party has an account as its own. Kept behind an interface because the ledger does not know parties. */
interface AccountInUse
{
    public function byParty(int $accountId): bool;
}
