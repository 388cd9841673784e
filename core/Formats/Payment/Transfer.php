<?php

declare(strict_types=1);

namespace Nelbix\Core\Formats\Payment;

/** One payment to one payee. */
final readonly class Transfer
{
    /**
     * @param string $id end-to-end identification, up to 35 characters; ACH keeps 15
     * @param int $amount minor units; zero is a prenote, which only tests the account
     * @param string $country two letters, or empty
     * @param list<array{number: string,
     *     amount: int}> $pays    the payee's own invoice numbers and what is paid on each; negative for a credit
     */
    public function __construct(
        public string $id,
        public string $name,
        public BankKey $to,
        public int $amount,
        public string $country = '',
        public array $pays = [],
    ) {
    }
}
