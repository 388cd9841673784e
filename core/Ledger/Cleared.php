<?php

declare(strict_types=1);

namespace Nelbix\Core\Ledger;

/**
 * What a line of a vendor's invoice clears: goods that were accrued when they came. The account that holds them falls by what was
 * accrued; what the invoice says more or less goes to the variance account, and what the rate made of it to exchange differences.
 * Source: rules.md, Matching; Money, exchange differences.
 */
final readonly class Cleared
{
    /**
     * @param int $control the account that holds what was accrued: received-not-invoiced
     * @param int $amount what was accrued, minor units of the invoice's currency
     * @param int $base the same as it was accrued, base minor units
     * @param int $variance price variance, or the line's own account
     * @param int $exchange realised exchange differences; asked only in another currency than the base
     */
    public function __construct(
        public int $control,
        public int $amount,
        public int $base,
        public int $variance,
        public int $exchange,
    ) {
    }
}
