<?php

declare(strict_types=1);

namespace Nelbix\Core\Ledger;

use Nelbix\Core\Money\Shares;
use Nelbix\Core\Tax\TaxCalculator;
use Nelbix\Core\Tax\TaxCode;

/**
 * Drafts the entry of a line of a bank statement that goes straight to accounts. What the bank moved is gross: a tax code's tax is in
 * it, whatever the code says of prices. Source: rules.md, Tax; common practice.
 *
 * @phpstan-type Part array{account: int, amount: int, text: string, analysis: Analysis, code: ?TaxCode, tax_account: int}
 */
final class BankLineEntry
{
    /**
     * @param int $bank its account in the chart
     * @param string $currency of the bank account
     * @param int $base of the whole line, base minor units, in the line's sign (in +)
     * @param non-empty-list<Part> $parts minor units in the line's sign; they do not add up to zero
     */
    public static function draft(int $bank, string $currency, int $base, array $parts, string $text): JournalDraft
    {
        $amount = array_sum(array_column($parts, 'amount'));
        $pieces = [];
        foreach ($parts as $part) {
            $tax = null === $part['code'] ? 0 : self::recoverable($part['amount'], $part['code']);
            $pieces[] = [$part['account'], $part['amount'] - $tax, $part['text'], $part['analysis']];
            if (0 !== $tax) {
                $pieces[] = [$part['tax_account'], $tax, 'Tax '.$part['code']?->code, new Analysis()];
            }
        }
        $bases = Shares::split($base, array_map(static fn (array $p): int => $p[1], $pieces));

        return JournalDraft::of($currency, [
            new DraftLine($bank, $base, $amount, $text),
            ...array_map(
                static fn (array $p, int $share): DraftLine => new DraftLine(
                    $p[0],
                    -$share,
                    -$p[1],
                    '' === $p[2] ? $text : $p[2],
                    $p[3],
                ),
                $pieces,
                $bases,
            ),
        ]);
    }

    /** The tax in a gross amount as far as it goes to its own account, minor units, in the amount's sign. */
    private static function recoverable(int $gross, TaxCode $code): int
    {
        $inclusive = new TaxCode($code->code, $code->rate, true, $code->recoverablePercent);
        $line = TaxCalculator::compute([['amount' => abs($gross), 'code' => $inclusive]])->taxes[$code->code];

        return ($gross <=> 0) * $line->recoverable;
    }
}
