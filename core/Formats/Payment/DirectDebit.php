<?php

declare(strict_types=1);

namespace Nelbix\Core\Formats\Payment;

use Nelbix\Core\Calendar\Day;

/** What is collected from one customer, by its mandate. */
final readonly class DirectDebit
{
    /**
     * @param string $id end-to-end identification, up to 35 characters
     * @param int $amount minor units, positive
     * @param string $mandate its reference
     * @param string $sequence FRST, RCUR or OOFF
     * @param string $scheme CORE or B2B
     * @param list<string> $numbers of what is paid by it
     */
    public function __construct(
        public string $id,
        public string $name,
        public BankKey $from,
        public int $amount,
        public string $mandate,
        public Day $signedOn,
        public string $sequence,
        public string $scheme,
        public array $numbers,
    ) {
    }
}
