<?php

declare(strict_types=1);

namespace Nelbix\Core\Ledger;

/** One item that a transfer or contra makes: amount and base in the item's own sign, minor units. */
final readonly class TransferLeg
{
    public function __construct(
        public Side $side,
        public int $account,
        public int $party,
        public int $amount,
        public int $base,
    ) {
    }
}
