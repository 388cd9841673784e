<?php

declare(strict_types=1);

namespace Nelbix\Core\Placement;

use Nelbix\Core\Calendar\Day;

/** What the ledger has moved on a bank account and no statement has shown yet: a payment, a receipt, a slip, a transfer, an entry. */
final readonly class Movement
{
    /**
     * @param int $entry the journal entry
     * @param int $amount what no line took yet, minor units of the account's currency; what comes in is above zero
     * @param string $number by which people know it, such as PY-26-00412
     * @param list<string> $names what else stands for it at the bank: end-to-end reference, what the payer called it
     * @param string $check its number; empty for anything else
     */
    public function __construct(
        public int $entry,
        public Day $day,
        public int $amount,
        public string $number,
        public array $names = [],
        public string $check = '',
        public string $party = '',
        public int $document = 0,
    ) {
    }
}
