<?php

declare(strict_types=1);

namespace Nelbix\Core\OpenItems;

use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Ledger\DocumentKind;
use Nelbix\Core\Ledger\Side;
use Nelbix\Core\Terms\EarlyDiscount;

/**
 * What one party still owes or is owed from one document (or one instalment of it).
 * Positive raises what is owed; open runs from original to zero and never crosses it. Amounts in minor units.
 * $moved is the day on which the money behind it moved; null for what is no money. $order is what the customer calls its order.
 */
final readonly class OpenItem
{
    public function __construct(
        public int $id,
        public Side $side,
        public int $party,
        public DocumentKind $kind,
        public string $number,
        public int $account,
        public string $currency,
        public int $original,
        public int $originalBase,
        public int $open,
        public int $openBase,
        public Day $posted,
        public Day $due,
        public ?EarlyDiscount $discount = null,
        public ?Day $moved = null,
        public string $order = '',
    ) {
    }

    /** The item after so much of it was applied, in its own sign. */
    public function less(int $applied, int $appliedBase): self
    {
        return $this->with(['open' => $this->open - $applied, 'openBase' => $this->openBase - $appliedBase]);
    }

    /** Base value of applying $amount (item's sign): all of what is open takes all of its base. */
    public function baseOf(int $amount): int
    {
        return $amount === $this->open
            ? $this->openBase
            : \Nelbix\Core\Money\Rounding::proportion($this->openBase, $amount, $this->open);
    }

    /** The discount on settling all of it on a day, minor units, positive; 0 for credits and money. */
    public function discountOn(Day $paid): int
    {
        return $this->open > 0 && null !== $this->discount ? $this->discount->onFull($this->open, $paid) : 0;
    }

    /** The same for money that earns no discount: credits alone. */
    public function withoutDiscount(): self
    {
        return $this->with(['discount' => null]);
    }

    /** The same as the other side sees it: what is owed is a credit, and a credit is owed. */
    public function mirrored(): self
    {
        return $this->with([
            'original' => -$this->original,
            'originalBase' => -$this->originalBase,
            'open' => -$this->open,
            'openBase' => -$this->openBase,
        ]);
    }

    /** @param array<string, int|null> $changed by property */
    private function with(array $changed): self
    {
        return new self(...$changed + get_object_vars($this));
    }
}
