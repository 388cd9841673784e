<?php

declare(strict_types=1);

namespace Nelbix\Core\Matching;

use Brick\Math\BigDecimal;
use Nelbix\Core\Ledger\DeliveryEntry;
use Nelbix\Core\Money\Currency;
use Nelbix\Core\Money\Rounding;

/**
 * What a line still stands for on its control account: a quantity and its value. In received-not-invoiced a delivery's at the accrued
 * price, in invoiced-not-received an invoice's at what it says. Source: rules.md, Matching.
 */
final readonly class Accrued
{
    /**
     * @param BigDecimal $quantity not below zero
     * @param int $amount minor units of the delivery's currency
     * @param int $base the same as it was accrued, base minor units
     */
    public function __construct(public BigDecimal $quantity, public int $amount, public int $base)
    {
    }

    /**
     * The part that a quantity of it stands for: quantity × accrued price; the last quantity takes what is left of the rounded value.
     *
     * @param BigDecimal $quantity above zero
     * @param BigDecimal $price at which it was accrued, currency units each
     *
     * @throws MoreThanThere when more is asked for than there is
     */
    public function take(BigDecimal $quantity, BigDecimal $price, Currency $currency): self
    {
        if ($quantity->isGreaterThan($this->quantity)) {
            throw new MoreThanThere($quantity, $this->quantity);
        }
        if ($quantity->isEqualTo($this->quantity)) {
            return $this;
        }
        $amount = min($this->amount, DeliveryEntry::value($quantity, $price, $currency));

        return new self(
            $quantity,
            $amount,
            0 === $this->amount ? 0 : Rounding::proportion($this->base, $amount, $this->amount),
        );
    }

    /**
     * The part that a quantity of it stands for, by proportion of what is left: the last quantity takes what is left of the value.
     *
     * @param BigDecimal $quantity above zero
     *
     * @throws MoreThanThere when more is asked for than there is
     */
    public function share(BigDecimal $quantity): self
    {
        if ($quantity->isGreaterThan($this->quantity)) {
            throw new MoreThanThere($quantity, $this->quantity);
        }
        if ($quantity->isEqualTo($this->quantity)) {
            return $this;
        }
        $part = $quantity->toBigRational()->dividedBy($this->quantity);

        return new self(
            $quantity,
            Rounding::toInt($part->multipliedBy($this->amount)),
            Rounding::toInt($part->multipliedBy($this->base)),
        );
    }

    public function less(self $part): self
    {
        return new self(
            $this->quantity->minus($part->quantity),
            $this->amount - $part->amount,
            $this->base - $part->base,
        );
    }
}
