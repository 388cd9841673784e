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
     * What each event of an invoice changes: money that came, money that was given back, a credit note that lowered what was paid for.
     * All of them together come to what is earned of all the money at last, to the cent; what an earlier event earned stays.
     *
     * @param int $net of the invoice, minor units
     * @param int $total of the invoice
     * @param list<array{money: int, net: int, total: int}> $events in their order: money (given back below zero), or net and total by which
     *                                                              a credit note lowered the invoice (taken back below zero)
     *
     * @return list<array{net: int, commission: int}> changes, in the same order
     */
    public static function changes(int $net, int $total, BigDecimal $percent, array $events): array
    {
        $money = $earnedNet = $earned = 0;
        $changes = [];
        foreach ($events as $event) {
            $money += $event['money'];
            $net -= $event['net'];
            $total -= $event['total'];
            $of = self::netPart($money, $net, $total);
            $commission = self::of($of, $percent);
            $changes[] = ['net' => $of - $earnedNet, 'commission' => $commission - $earned];
            [$earnedNet, $earned] = [$of, $commission];
        }

        return $changes;
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
