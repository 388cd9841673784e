<?php

declare(strict_types=1);

namespace Nelbix\Core\Charges;

use Brick\Math\BigDecimal;
use Nelbix\Core\Ledger\InvoiceEntry;
use Nelbix\Core\Ledger\Side;

/** An open item in another currency at the closing rate. Amounts are minor units in the item's sign. */
final readonly class RevaluedItem
{
    public int $worth;

    /**
     * @param int $account the control account that it stands on
     * @param int $open in its currency
     * @param int $openBase what it stands at in the books
     * @param BigDecimal $rate base units for one unit, at the day
     */
    public function __construct(
        public int $item,
        public Side $side,
        public int $account,
        public int $party,
        public string $currency,
        public int $open,
        public int $openBase,
        public BigDecimal $rate,
        string $baseCurrency,
    ) {
        $this->worth = InvoiceEntry::base($open, $currency, $baseCurrency, $rate);
    }

    /** What it is worth more than it stands at: more is owed, whichever side it is. */
    public function difference(): int
    {
        return $this->worth - $this->openBase;
    }

    /** What the company gains by it; below zero for a loss. */
    public function gain(): int
    {
        return $this->side->ledgerSign() * $this->difference();
    }
}
