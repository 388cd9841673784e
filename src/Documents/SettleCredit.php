<?php

declare(strict_types=1);

namespace Nelbix\App\Documents;

use Brick\Math\BigDecimal;
use Nelbix\App\Platform\Actor;
use Nelbix\Core\Calendar\Day;

/**
 * Settles a credit that names an invoice with what is open of it, over its instalments by largest remainder. Kept behind an
 * interface because documents do not know settlements. Source: rules.md, Payment terms.
 */
interface SettleCredit
{
    /** Settles as much as both have open; nothing when nothing is. Call inside a transaction. */
    public function settle(Actor $actor, int $creditId, int $invoiceId, Day $postingDate, BigDecimal $rate): void;
}
