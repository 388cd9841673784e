<?php

declare(strict_types=1);

namespace Nelbix\Core\Ledger;

/** A line of a journal draft. Amounts are in ledger sign: debit +, credit −, minor units. */
final readonly class DraftLine
{
    /**
     * @param int $account identifier of the account
     * @param int $base in the company's base currency
     * @param int $amount in the entry's currency
     */
    public function __construct(
        public int $account,
        public int $base,
        public int $amount,
        public string $text = '',
        public Analysis $analysis = new Analysis(),
        public ?int $party = null,
    ) {
    }
}
