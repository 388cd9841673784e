<?php

declare(strict_types=1);

namespace Nelbix\App\Goods;

use Nelbix\App\Platform\Actor;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Refused;

/** Claims of the vendor what invoiced goods that went back had cost. Inside the transaction. */
interface ClaimsReturned
{
    /**
     * @param non-empty-list<InvoicedPart> $parts of one invoice
     *
     * @return int the claim's id
     *
     * @throws Refused
     */
    public function claim(Actor $actor, array $parts, Day $day, string $reason): int;
}
