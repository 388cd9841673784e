<?php

declare(strict_types=1);

namespace Nelbix\Core\Formats\Payment;

use Nelbix\Core\Calendar\Day;

/** What a bank is told to pay on one day from one account. */
final readonly class PaymentOrder
{
    /**
     * @param string $id our number of the file, up to 35 letters, digits and dashes
     * @param \DateTimeImmutable $made when; the same order made again has the same
     * @param string $currency of the payments
     * @param string $accountCurrency of the account they are taken from, which may be another
     * @param string $companyNumber what the bank knows us by (ACH: 10 characters)
     * @param non-empty-list<Transfer> $transfers
     */
    public function __construct(
        public string $id,
        public \DateTimeImmutable $made,
        public Day $payDate,
        public string $name,
        public string $currency,
        public BankKey $from,
        public string $accountCurrency,
        public string $bankName,
        public string $companyNumber,
        public array $transfers,
    ) {
    }

    /** The sum, minor units. */
    public function total(): int
    {
        return array_sum(array_map(static fn (Transfer $t): int => $t->amount, $this->transfers));
    }
}
