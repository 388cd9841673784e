<?php

declare(strict_types=1);

namespace Nelbix\Core\Ledger;

use Brick\Math\BigDecimal;
use Nelbix\Core\Money\Money;
use Nelbix\Core\Money\Shares;
use Nelbix\Core\Tax\TaxResult;

/** Drafts the entry of an invoice, credit note, debit note or finance charge of either side. Source: rules.md, the table of events. */
final class InvoiceEntry
{
    /**
     * @param int $sign +1 or −1,
     *                  the sign of the document's item
     * @param array<int, array{account: int, text: string,
     *     analysis: Analysis, cleared?: Cleared|null, awaited?: int|null}> $lines under the keys of the tax result; awaited is the
     *     account of invoiced-not-received for goods that have not come
     * @param array<string, array{input: int,
     *     output: int}>                                              $taxAccounts by code; input for payables, output for receivables,
     *     both under reverse charge
     * @param int $base the document's
     *                  base amount, positive, minor units
     * @param (\Closure(int): int)|null $toBase values an amount
     *                                          in base; asked only when the total is zero
     * @param list<array{cost: int, costOfSales: int, inventory: int, text: string,
     *     analysis: Analysis}> $costs       what sold goods cost, base minor units, with both accounts
     */
    public static function draft(
        Side $side,
        int $sign,
        int $control,
        int $party,
        string $text,
        string $currency,
        array $lines,
        TaxResult $tax,
        array $taxAccounts,
        int $base,
        ?\Closure $toBase = null,
        array $costs = [],
        string $baseCurrency = '',
    ): JournalDraft {
        // What stands against the control account, in the document's own sign, then shared base by largest remainder.
        $pieces = $accrued = $waiting = [];
        foreach ($lines as $key => $line) {
            // tax that cannot be recovered belongs to the cost of what was bought; tax on sales is owed in full
            $cost = $tax->lineNets[$key] + (Side::Payables === $side ? $tax->lineUnrecoverable[$key] : 0);
            $cleared = $line['cleared'] ?? null;
            if (null !== $cleared) {
                $accrued[\count($pieces)] = $cleared;
                $pieces[] = [$cleared->control, $cleared->amount, $line['text'], new Analysis()];
                $pieces[] = [
                    $cleared->variance,
                    $tax->lineNets[$key] - $cleared->amount,
                    $line['text'],
                    $line['analysis'],
                ];
                $cost = $tax->lineUnrecoverable[$key];
            }
            if (null !== ($line['awaited'] ?? null)) {
                $waiting[\count($pieces)] = true;
                $pieces[] = [$line['awaited'], $tax->lineNets[$key], $line['text'], new Analysis()];
                $cost = $tax->lineUnrecoverable[$key];
            }
            $pieces[] = [$line['account'], $cost, $line['text'], $line['analysis']];
        }
        foreach ($tax->taxes as $code => $t) {
            $accounts = $taxAccounts[$code];
            if (Side::Payables === $side) {
                $pieces[] = [$accounts['input'], $t->recoverable, 'Tax '.$code, new Analysis()];
                if ($t->code->reverseCharge) {
                    $pieces[] = [$accounts['output'], -$t->tax, 'Tax '.$code.' reverse charge', new Analysis()];
                }
            } elseif (!$t->code->reverseCharge) {
                $pieces[] = [$accounts['output'], $t->tax, 'Tax '.$code, new Analysis()];
            }
        }
        $shares = self::shares($base, array_map(static fn (array $p): int => $p[1], $pieces), $toBase);
        $direction = $side->ledgerSign() * $sign;
        $draft = [];
        foreach ($pieces as $k => [$account, $amount, $lineText, $analysis]) {
            $cleared = $accrued[$k] ?? null;
            $draft[] = new DraftLine(
                $account,
                -$direction * ($cleared->base ?? $shares[$k]),
                -$direction * $amount,
                '' === $lineText ? $text : $lineText,
                $analysis,
                null === $cleared && !isset($waiting[$k]) ? null : $party,
            );
            if (null !== $cleared) {
                $draft[] = new DraftLine(
                    $cleared->exchange,
                    -$direction * ($shares[$k] - $cleared->base),
                    0,
                    $lineText,
                );
            }
        }
        foreach ($costs as $c) {
            // goods leave at cost, and come back at cost with a credit note; a foreign amount they have not
            $amount = $currency === $baseCurrency ? $sign * $c['cost'] : 0;
            $draft[] = new DraftLine($c['costOfSales'], $sign * $c['cost'], $amount, $c['text'], $c['analysis']);
            $draft[] = new DraftLine($c['inventory'], -$sign * $c['cost'], -$amount, $c['text']);
        }
        array_unshift(
            $draft,
            new DraftLine($control, $direction * $base, $direction * $tax->total(), $text, new Analysis(), $party),
        );

        return JournalDraft::of($currency, $draft);
    }

    /**
     * Base over the pieces by largest remainder. A total of zero has no proportion: what is debited is valued as a whole and
     * shared over its pieces, what is credited likewise, so that both come to the same.
     *
     * @param list<int> $amounts
     * @param (\Closure(int): int)|null $toBase
     *
     * @return list<int>
     */
    private static function shares(int $base, array $amounts, ?\Closure $toBase): array
    {
        if (0 !== array_sum($amounts)) {
            return array_values(Shares::split($base, $amounts));
        }
        $up = array_filter($amounts, static fn (int $a): bool => $a > 0);
        $down = array_filter($amounts, static fn (int $a): bool => $a < 0);
        $whole = null === $toBase ? array_sum($up) : $toBase(array_sum($up));
        $shares = array_fill(0, \count($amounts), 0);
        foreach ([[$whole, $up], [-$whole, $down]] as [$part, $weights]) {
            $shares = array_replace($shares, [] === $weights ? [] : Shares::split($part, $weights));
        }

        return array_values($shares);
    }

    /** The document's base: round(total × rate), once. */
    public static function base(int $total, string $currency, string $baseCurrency, BigDecimal|string $rate): int
    {
        return $currency === $baseCurrency
            ? $total
            : Money::of($total, $currency)->convert($rate, $baseCurrency)->minor;
    }
}
