<?php

declare(strict_types=1);

namespace Nelbix\Core\Ledger;

/** What money that moved settles of one party on one control account: positive minor units, in the money's currency and in base. */
final readonly class MoneyPart
{
    public function __construct(public int $account, public int $party, public int $amount, public int $base)
    {
    }
}
