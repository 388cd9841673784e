<?php

declare(strict_types=1);

namespace Nelbix\Core\Tax;

use Brick\Math\BigDecimal;
use Nelbix\Core\Money\Rounding;

/**
 * The tax inside a prepayment: owed when the money comes, and given back in parts as it is placed on invoices, which bring their own.
 * Source: rules.md, Journal entries, Customer prepayment received; the tax in an inclusive price as in Tax.
 */
final class PrepaymentTax
{
    /**
     * @param int $gross what came, minor units
     * @param BigDecimal $rate percent
     */
    public static function inside(int $gross, BigDecimal $rate): int
    {
        return Rounding::toInt(
            $rate
                ->toBigRational()
                ->dividedBy($rate->toBigRational()->plus(100))
                ->multipliedBy($gross),
        );
    }

    /**
     * What of the tax goes back when a part of the prepayment is placed; the last part takes the rest, so that it always adds up.
     *
     * @param int $tax all of it, minor units
     * @param int $original the prepayment, positive minor units
     * @param int $applied what is placed of it, positive
     * @param int $left tax that is not given back yet
     * @param bool $closes nothing of the prepayment is left after this
     */
    public static function share(int $tax, int $original, int $applied, int $left, bool $closes): int
    {
        return $closes ? $left : min($left, Rounding::proportion($tax, $applied, $original));
    }
}
