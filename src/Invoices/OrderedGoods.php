<?php

declare(strict_types=1);

namespace Nelbix\App\Invoices;

use Brick\Math\BigDecimal;
use Brick\Math\RoundingMode;
use Nelbix\Core\Ledger\DeliveryEntry;
use Nelbix\Core\Money\Currency;

/** Goods that a line of an invoice says, beside what was agreed of them. Prices each, in units of the invoice's currency. */
abstract readonly class OrderedGoods
{
    /**
     * @param string $what the goods, in words
     * @param string $of delivery or order that they came with, or will
     * @param BigDecimal $quantity of the invoice's line
     * @param BigDecimal|null $agreed price of the order; null when nobody ordered it
     * @param int|null $orderLine id of the order's line
     * @param BigDecimal|null $ordered quantity of the order's line
     * @param BigDecimal|null $invoiced quantity of the order's line that was invoiced before
     * @param int|null $orderedBy who ordered
     */
    public function __construct(
        public string $what,
        public string $of,
        public BigDecimal $quantity,
        public ?BigDecimal $agreed,
        public ?int $orderLine,
        public ?BigDecimal $ordered,
        public ?BigDecimal $invoiced,
        public ?int $orderedBy,
        protected Currency $currency,
    ) {
    }

    /** The price to compare with: what was agreed, else that of the delivery. */
    abstract public function price(): BigDecimal;

    abstract public function received(): bool;

    /** What the quantity comes to at that price, minor units. */
    public function worth(): int
    {
        return DeliveryEntry::value($this->quantity, $this->price(), $this->currency);
    }

    /** What the line says more than was agreed, minor units; less is below zero. */
    public function more(int $net): int
    {
        return $net - $this->worth();
    }

    /** What the line says each, of its net in minor units: allowances of the line are in it. */
    public function each(int $net): BigDecimal
    {
        return BigDecimal::ofUnscaledValue($net, $this->currency->digits)
            ->dividedBy($this->quantity, 6, RoundingMode::HALF_UP)
            ->stripTrailingZeros();
    }

    /** How much more each than what was agreed, in percent with one decimal; null without a price to compare with. */
    public function percent(BigDecimal $each): ?BigDecimal
    {
        $price = $this->price();

        return $price->isZero()
            ? null
            : $each->minus($price)->multipliedBy(100)->dividedBy($price, 1, RoundingMode::HALF_UP);
    }
}
