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
     * Withholding tax taken at payment: round(percent × (net − net part of the discount)).
     * On a part payment give the net and the discount of that part.
     */
    public static function withholding(int $net, int $netDiscount, BigDecimal|string $percent): int
    {
        return Rounding::percent($net - $netDiscount, $percent);
    }

    /**
     * Splits a discount over net and tax in the invoice's proportion by largest remainder; the part of the tax that
     * could not be recovered goes with the net, and under reverse charge the discount is all net.
     *
     * @param int $discount minor units
     * @param int $net the document's net
     * @param array<string, TaxLine> $taxes the document's tax by code
     *
     * @return array{net: int, taxes: array<string, int>} net + Σ taxes = discount; under reverse charge the tax named
     *                                                    corrects both taxes and is not part of the sum
     */
    public static function splitDiscount(int $discount, int $net, array $taxes): array
    {
        $weights = ['' => $net];
        foreach ($taxes as $name => $line) {
            if ($line->code->discountCorrectsTax && !$line->code->reverseCharge) {
                $weights['t'.$name] = $line->tax;
            }
        }
        $total = array_sum($weights);
        if (0 === $total) {
            return ['net' => $discount, 'taxes' => []];
        }
        $parts = Shares::split($discount, $weights);
        $result = ['net' => $parts[''], 'taxes' => []];
        foreach ($taxes as $name => $line) {
            if (!$line->code->discountCorrectsTax) {
                continue;
            }
            if ($line->code->reverseCharge) {
                $result['taxes'][$name] = Rounding::percent(
                    Rounding::proportion($discount, $line->net, $net),
                    $line->code->rate,
                );
                continue;
            }
            $part = $parts['t'.$name];
            $recovered = 0 === $line->tax ? 0 : Rounding::proportion($part, $line->recoverable, $line->tax);
            $result['net'] += $part - $recovered;
            $result['taxes'][$name] = $recovered;
        }

        return $result;
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
