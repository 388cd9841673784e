<?php

declare(strict_types=1);

namespace Nelbix\Core\Settlement;

/** A discount, write-off or withholding that helps to close an item; in the opposite sign of that item, minor units. */
final readonly class Adjustment
{
    /**
     * @param int $account where it is posted
     * @param list<array{account: int, amount: int, base?: ?int}> $parts corrected tax inside the amount, in the adjustment's sign;
     *                                                                   what the parts leave goes to $account. "base" values a part
     *                                                                   at the invoice's rate
     * @param int|null $recovers the adjustment that wrote the debt off which this recovers
     */
    public function __construct(
        public AdjustmentKind $kind,
        public int $item,
        public int $amount,
        public int $account,
        public array $parts = [],
        public string $reason = '',
        public ?int $recovers = null,
    ) {
    }
}
