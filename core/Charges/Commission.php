<?php

declare(strict_types=1);

namespace Nelbix\Core\Charges;

use Brick\Math\BigDecimal;
use Nelbix\Core\Money\Rounding;

/** Commission on money that came in: discount counts as not received, credits have lowered the invoice. Source: rules.md, Commission. */
final class Commission
{
    /**
     * round(percent × net part of the money received).
     *
     * @param int $netPart minor units
     */
    public static function of(int $netPart, BigDecimal $percent): int
    {
        return Rounding::percent($netPart, $percent);
    }

    /**
     * The net part of money received: money × net / total of the invoice, credits having lowered both.
     *
     * @param int $money minor units, not negative
     */
    public static function netPart(int $money, int $net, int $total): int
    {
        return $total <= 0 ? 0 : Rounding::proportion($money, $net, $total);
    }

    /**
     * How much of what one item was paid is money, where a settlement used credits too: in the proportion of the whole.
     *
     * @param int $paid of the item, gross less what helped to close it
     * @param int $paidInAll of all items of the settlement
     * @param int $moneyInAll that the settlement used
     */
    public static function moneyOf(int $paid, int $paidInAll, int $moneyInAll): int
    {
        return $paidInAll <= 0 || $paid <= 0 ? 0 : min($paid, Rounding::proportion($moneyInAll, $paid, $paidInAll));
    }
}
