<?php

declare(strict_types=1);

namespace Nelbix\App\Invoices;

use Brick\Math\BigDecimal;
use Brick\Math\RoundingMode;
use Nelbix\App\Goods\AccruedLine;
use Nelbix\Core\Ledger\Cleared;
use Nelbix\Core\Ledger\DeliveryEntry;
use Nelbix\Core\Matching\Accrued;
use Nelbix\Core\Money\Currency;

/** A line of an invoice beside the goods that it invoices. */
final readonly class MatchedLine
{
    /** @param Accrued $part what it takes of them */
    public function __construct(public AccruedLine $goods, public Accrued $part, public Cleared $cleared)
    {
    }

    /** What the invoice says each, of a net amount in minor units: allowances of the line are in it. Currency units. */
    public static function each(int $net, BigDecimal $quantity, int $digits): BigDecimal
    {
        return BigDecimal::ofUnscaledValue($net, $digits)
            ->dividedBy($quantity, 6, RoundingMode::HALF_UP)
            ->stripTrailingZeros();
    }

    /** What the quantity comes to at the price that was agreed, else at that of the delivery; minor units. */
    public function agreed(): int
    {
        return null === $this->goods->agreed
            ? $this->part->amount
            : DeliveryEntry::value($this->part->quantity, $this->goods->agreed, Currency::of($this->goods->currency));
    }

    /** What the line says more than was agreed, minor units; less is below zero. */
    public function more(int $net): int
    {
        return $net - $this->agreed();
    }

    /** What the line says each, currency units. */
    public function eachOf(int $net, string $currency): BigDecimal
    {
        return self::each($net, $this->part->quantity, Currency::of($currency)->digits);
    }

    /** How much more each than what was agreed, in percent with one decimal; null without a price to compare with. */
    public function percent(BigDecimal $each): ?BigDecimal
    {
        $agreed = $this->goods->agreed ?? $this->goods->price;

        return $agreed->isZero()
            ? null
            : $each->minus($agreed)->multipliedBy(100)->dividedBy($agreed, 1, RoundingMode::HALF_UP);
    }
}
