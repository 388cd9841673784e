<?php

declare(strict_types=1);

namespace Nelbix\Core\Proposal;

use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Refused;

/** What a payment proposal is asked for. Amounts in minor units of $currency. */
final readonly class Criteria
{
    /**
     * @param list<int> $payees empty for all
     * @param list<IfPaidLate> $ifPaidLate empty for all
     * @param list<string> $methods empty for all
     * @param list<string> $groups of vendors; empty for all
     * @param bool $perInvoice one payment for each invoice, whatever the vendor says
     *
     * @throws Refused when paying again on is not after the pay date
     */
    public function __construct(
        public Day $payDate,
        public Day $dueThrough,
        public Day $againOn,
        public string $currency,
        public array $payees = [],
        public array $methods = [],
        public array $ifPaidLate = [],
        public int $smallest = 0,
        public ?int $cash = null,
        public array $groups = [],
        public bool $perInvoice = false,
    ) {
        if (!$againOn->isAfter($payDate)) {
            throw Refused::because(
                'again_on',
                \sprintf('Paying again on must be after the pay date, %s.', $payDate->long()),
            );
        }
    }

    public function names(Payee $payee): bool
    {
        return ([] === $this->payees || \in_array($payee->id, $this->payees, true))
            && ([] === $this->groups || \in_array($payee->group, $this->groups, true))
            && ([] === $this->ifPaidLate || \in_array($payee->ifPaidLate, $this->ifPaidLate, true));
    }
}
