<?php

declare(strict_types=1);

namespace Nelbix\App\Parties;

/** Which payment on its way names a bank account of a party. Kept behind an interface because parties do not know payments. */
interface BankDetailsInUse
{
    /**
     * @param non-empty-list<int> $bankIds accounts of the party
     *
     * @return string|null the number of a run that still has to send money to one of them
     */
    public function run(array $bankIds): ?string;
}
