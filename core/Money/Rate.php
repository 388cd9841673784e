<?php

declare(strict_types=1);

namespace Nelbix\Core\Money;

use Brick\Math\BigDecimal;
use Brick\Math\RoundingMode;
use Nelbix\Core\ProblemKind;
use Nelbix\Core\Refused;

/** Exchange rates: base units for one unit, exact decimals of at most ten places. Source: rules.md, Money. */
final class Rate
{
    public const PLACES = 10;

    /** @throws Refused when it is no rate, or out of range */
    public static function parse(string $value, string $field = 'rate'): BigDecimal
    {
        if (1 !== preg_match('/\A\d{1,9}(\.\d{1,10})?\z/', $value) || BigDecimal::of($value)->isZero()) {
            throw Refused::because(
                $field,
                \sprintf(
                    '“%s” is not a rate; write the base units for one unit, such as 1.0825.',
                    mb_strimwidth($value, 0, 30, '…'),
                ),
            );
        }

        return self::inRange(BigDecimal::of($value), $field);
    }

    /**
     * A rate that is kept lies between 0.00001 and 100,000: beyond that it is a slip of the pen, or turned round.
     *
     * @throws Refused
     */
    public static function inRange(BigDecimal $rate, string $field = 'rate'): BigDecimal
    {
        if ($rate->isGreaterThan(100_000) || $rate->isLessThan('0.00001')) {
            throw Refused::because(
                $field,
                \sprintf('A rate of %s is out of range; write the base units for one unit, such as 1.0825.', $rate),
                ProblemKind::TooMuch,
            );
        }

        return $rate;
    }

    /**
     * What one unit of a currency is worth in another, both given against a third: a cross rate, rounded once.
     *
     * @param BigDecimal $from units of the currency for one of the third
     * @param BigDecimal $to units of the other for one of the third
     */
    public static function cross(BigDecimal $from, BigDecimal $to): BigDecimal
    {
        return $to->dividedBy($from, self::PLACES, RoundingMode::HALF_UP)->stripTrailingZeros();
    }

    /**
     * Base units for one unit of each currency, out of rates that are all given against one currency.
     *
     * @param string $pivot the currency they are given against, such as EUR
     * @param array<string, BigDecimal> $units units of each currency for one of the pivot
     *
     * @return array<string, BigDecimal> by currency, without the base itself; empty when the base is not among them
     */
    public static function into(string $base, string $pivot, array $units): array
    {
        $units[$pivot] = BigDecimal::one();
        if (!isset($units[$base])) {
            return [];
        }
        $rates = [];
        foreach ($units as $currency => $unit) {
            if ($currency !== $base) {
                $rates[$currency] = self::cross($unit, $units[$base]);
            }
        }

        return $rates;
    }
}
