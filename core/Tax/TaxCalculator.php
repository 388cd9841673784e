<?php

declare(strict_types=1);

namespace Nelbix\Core\Tax;

use Brick\Math\BigDecimal;
use Nelbix\Core\Money\Rounding;
use Nelbix\Core\Money\Shares;
use Nelbix\Core\Refused;

/**
 * Tax per code on the document's summed net, rounded once per code, as EN 16931 does per tax category (BR-CO-17).
 * An inclusive price holds gross × rate / (1 + rate). Source: rules.md, Tax.
 */
final class TaxCalculator
{
    /**
     * @param array<int, array{amount: int, code: ?TaxCode}> $lines amounts in minor units; gross under an inclusive code
     * @param array<string, int> $overrides tax that the vendor's paper rules, by code
     * @param int $tolerance how far an override may lie from the computed tax, minor units
     *
     * @throws Refused when an override is beyond the tolerance or for a code not on the document
     */
    public static function compute(array $lines, array $overrides = [], int $tolerance = 0): TaxResult
    {
        $byCode = [];
        $codes = [];
        $nets = [];
        $unrecoverable = [];
        foreach ($lines as $key => $line) {
            $nets[$key] = $line['amount'];
            $unrecoverable[$key] = 0;
            if (null !== $line['code']) {
                $codes[$line['code']->code] = $line['code'];
                $byCode[$line['code']->code][$key] = $line['amount'];
            }
        }
        $taxes = [];
        $taxTotal = 0;
        foreach ($byCode as $name => $amounts) {
            $name = (string) $name;
            $code = $codes[$name];
            $sum = array_sum($amounts);
            $tax = self::taxOn($sum, $code);
            if (isset($overrides[$name])) {
                if (abs($overrides[$name] - $tax) > $tolerance) {
                    throw Refused::because(
                        'tax',
                        \sprintf(
                            'The tax typed for %s is further from the computed tax than the tolerance allows; check the lines or '.
                                'the tax code.',
                            $name,
                        ),
                    );
                }
                $tax = $overrides[$name];
            }
            if ($code->inclusive) {
                foreach (self::share($tax, $amounts) as $key => $part) {
                    $nets[$key] -= $part;
                }
                $sum -= $tax;
            }
            $recoverable = Rounding::percent($tax, $code->recoverablePercent ?? BigDecimal::of(100));
            foreach (self::share($tax - $recoverable, $amounts) as $key => $part) {
                $unrecoverable[$key] = $part;
            }
            $taxes[$name] = new TaxLine($code, $sum, $tax, $recoverable);
            $taxTotal += $code->reverseCharge ? 0 : $tax;
        }
        foreach ($overrides as $name => $amount) {
            if (!isset($taxes[$name])) {
                throw Refused::because(
                    'tax',
                    \sprintf('There is no line with the tax code %s to hold that tax.', $name),
                );
            }
        }

        return new TaxResult($nets, $unrecoverable, $taxes, array_sum($nets), $taxTotal);
    }

    /**
     * What a discount corrects of the taxes of its invoice. It is shared over the codes by their gross, then within a code that
     * corrects over net and tax, both by largest remainder; what could not be recovered stays with the discount. Under reverse
     * charge the discount is all net, and the tax on it is owed less and, as far as it was recovered, recovered less.
     * Source: rules.md, Payment terms.
     *
     * @param int $discount minor units
     * @param int $net the document's net
     * @param array<string, TaxLine> $taxes the document's tax by code
     */
    public static function correctedBy(int $discount, int $net, array $taxes): CorrectedTaxes
    {
        $gross = [];
        foreach ($taxes as $name => $line) {
            $gross[$name] = $line->net + ($line->code->reverseCharge ? 0 : $line->tax);
            $net -= $line->net;
        }
        // lines without a code stand last, so that a cent in doubt goes to a code first
        $weights = [...array_values($gross), $net];
        $shares =
            0 === array_sum($weights) ? array_map(static fn (): int => 0, $weights) : Shares::split($discount, $weights);
        $input = $output = [];
        foreach (array_keys($taxes) as $k => $name) {
            $line = $taxes[$name];
            if (!$line->code->discountCorrectsTax) {
                continue;
            }
            $tax = match (true) {
                $line->code->reverseCharge => Rounding::percent($shares[$k], $line->code->rate),
                0 === $gross[$name] => 0,
                default => Shares::split($shares[$k], ['net' => $line->net, 'tax' => $line->tax])['tax'],
            };
            $input[$name] = 0 === $line->tax ? 0 : Rounding::proportion($tax, $line->recoverable, $line->tax);
            if ($line->code->reverseCharge) {
                $output[$name] = $tax;
            }
        }

        return new CorrectedTaxes($discount - array_sum($input) + array_sum($output), $input, $output);
    }

    private static function taxOn(int $amount, TaxCode $code): int
    {
        if (!$code->inclusive) {
            return Rounding::percent($amount, $code->rate);
        }
        $rate = $code->rate->toBigRational()->dividedBy(100);

        return Rounding::toInt($rate->dividedBy($rate->plus(1))->multipliedBy($amount));
    }

    /**
     * @param array<int, int> $amounts
     *
     * @return array<int, int>
     */
    private static function share(int $total, array $amounts): array
    {
        return 0 === $total
            ? array_map(static fn (int $a): int => 0, $amounts)
            : Shares::split(
                $total,
                0 === array_sum($amounts) ? array_map(static fn (int $a): int => 1, $amounts) : $amounts,
            );
    }
}
