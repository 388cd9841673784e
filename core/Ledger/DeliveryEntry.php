<?php

declare(strict_types=1);

namespace Nelbix\Core\Ledger;

use Brick\Math\BigDecimal;
use Nelbix\Core\Money\Currency;
use Nelbix\Core\Money\Rounding;
use Nelbix\Core\Money\Shares;

/** Drafts the entry of goods received: expense or asset at order price against received-not-invoiced. Source: rules.md, Journal entries. */
final class DeliveryEntry
{
    /** round(quantity × price), minor units of the currency. */
    public static function value(BigDecimal $quantity, BigDecimal $price, Currency $currency): int
    {
        return Rounding::toInt($quantity->multipliedBy($price)->withPointMovedRight($currency->digits));
    }

    /**
     * @param int $control received-not-invoiced
     * @param non-empty-list<array{account: int, amount: int, text: string,
     *     analysis: Analysis}> $lines   amounts in $currency minor units
     * @param int $base of all lines,
     *                  base minor units; shared by largest remainder
     */
    public static function draft(
        int $control,
        int $party,
        string $text,
        string $currency,
        array $lines,
        int $base,
    ): JournalDraft {
        $amounts = array_column($lines, 'amount');
        $draft = [];
        foreach (self::bases($amounts, $base) as $k => $share) {
            $draft[] = new DraftLine(
                $lines[$k]['account'],
                $share,
                $amounts[$k],
                $lines[$k]['text'],
                $lines[$k]['analysis'],
            );
        }
        $draft[] = new DraftLine($control, -$base, -array_sum($amounts), $text, new Analysis(), $party);

        return JournalDraft::of($currency, $draft);
    }

    /**
     * @param non-empty-list<int> $amounts
     *
     * @return list<int> base of each line; they add up to $base
     */
    public static function bases(array $amounts, int $base): array
    {
        return 0 === array_sum($amounts)
            ? array_map(static fn (): int => 0, $amounts)
            : array_values(Shares::split($base, $amounts));
    }
}
