<?php

declare(strict_types=1);

namespace Nelbix\Core\Tax;

/** What a discount takes back of the taxes of its invoice, minor units of the invoice's currency, positive for a positive discount. */
final readonly class CorrectedTaxes
{
    /**
     * @param int $discount what is left for the discounts account: discount = left + Σ input − Σ output
     * @param array<string, int> $input by code: less input tax (payables) or less output tax (receivables)
     * @param array<string, int> $output by code, under reverse charge only: less of the tax that is owed as well
     */
    public function __construct(public int $discount, public array $input, public array $output)
    {
    }
}
