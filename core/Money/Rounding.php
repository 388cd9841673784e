<?php

declare(strict_types=1);

namespace Nelbix\Core\Money;

use Brick\Math\BigNumber;
use Brick\Math\BigRational;
use Brick\Math\RoundingMode;

/** The one way of rounding: half away from zero, once, at the point a rule names. Source: rules.md, Money. */
final class Rounding
{
    /** Rounds an exact number to a whole one. */
    public static function toInt(BigNumber $exact): int
    {
        return $exact->toBigRational()->toScale(0, RoundingMode::HALF_UP)->toInt();
    }

    /** round(amount × numerator / denominator), all whole numbers. The denominator is not zero. */
    public static function proportion(int $amount, int $numerator, int $denominator): int
    {
        return self::toInt(BigRational::nd($amount, 1)->multipliedBy($numerator)->dividedBy($denominator));
    }

    /** round(amount × percent / 100). */
    public static function percent(int $amount, BigNumber|string $percent): int
    {
        return self::toInt(
            BigRational::nd($amount, 100)->multipliedBy(
                \is_string($percent) ? BigRational::of($percent) : $percent->toBigRational(),
            ),
        );
    }
}
