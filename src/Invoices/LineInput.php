<?php

declare(strict_types=1);

namespace Nelbix\App\Invoices;

use Nelbix\Core\Ledger\LineKind;
use Nelbix\Core\Money\PricedAmount;

/**
 * A line as it was entered. Amount in minor units of the document's currency, negative for an allowance; gross under an inclusive tax
 * code; what the goods cost in base currency; the allowance is what quantity × price was lowered by, negative for a charge on the line.
 */
final readonly class LineInput
{
    public function __construct(
        public int $accountId,
        public int $amount,
        public ?int $taxCodeId = null,
        public string $text = '',
        public ?int $costCenterId = null,
        public ?int $departmentId = null,
        public ?int $projectId = null,
        public ?string $quantity = null,
        public ?string $price = null,
        public ?int $cost = null,
        public LineKind $kind = LineKind::Line,
        public ?int $allowance = null,
        /** The delivery line that it invoices, with the line's quantity. */
        public ?int $deliveryLine = null,
        /** The order line whose goods it waits for, with the line's quantity. */
        public ?int $orderLine = null,
    ) {
    }

    /** Quantity and price as they were typed; empty when only an amount was. */
    public function priced(string $currency): string
    {
        return null === $this->quantity || null === $this->price
            ? ''
            : PricedAmount::typed($this->quantity, $this->price, (int) $this->allowance, $currency);
    }
}
