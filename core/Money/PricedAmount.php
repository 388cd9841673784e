<?php

declare(strict_types=1);

namespace Nelbix\Core\Money;

use Brick\Math\BigDecimal;
use Nelbix\Core\Refused;

/**
 * A line's amount typed as quantity × price, with what is taken off or put on: "12 × 4.50", "12 × 4.50 - 5%", "3 × 20 + 7.50".
 * Source: EN 16931, BT-129, BT-146 and the allowances and charges of a line, BG-27 and BG-28.
 */
final readonly class PricedAmount
{
    /**
     * @param int $amount minor units: round(quantity × price) less the allowance
     * @param int $allowance minor units, positive lowers; negative is a charge on the line
     */
    private function __construct(
        public string $quantity,
        public string $price,
        public int $amount,
        public int $allowance,
    ) {
    }

    /**
     * @return self|null null when it is not quantity × price
     *
     * @throws Refused when more is taken off than there is, or it cannot be worked out
     */
    public static function read(string $typed, Currency $currency, string $field): ?self
    {
        $number = '(\d{1,9}(?:\.\d{1,6})?)';
        if (
            1 !==
            preg_match(
                '/\A(\d{1,9}(?:\.\d{1,4})?)\s*[*×]\s*'.$number.'(?:\s*([-−+])\s*'.$number.'\s*(%?))?\z/u',
                trim($typed),
                $m,
            )
        ) {
            return null;
        }
        $gross = Rounding::toInt(
            BigDecimal::of($m[1])
                ->multipliedBy($m[2])
                ->multipliedBy(BigDecimal::of(10)->power($currency->digits)),
        );
        $allowance = 0;
        if (isset($m[4])) {
            $allowance =
                '%' === ($m[5] ?? '')
                    ? Rounding::percent($gross, $m[4])
                    : Money::parse($m[4], $currency->code, $field)->minor;
            $allowance *= '+' === $m[3] ? -1 : 1;
        }
        if ($allowance > $gross) {
            throw Refused::because(
                $field,
                'More is taken off than quantity × price come to; enter a credit note for money that goes the other way.',
            );
        }

        return new self($m[1], $m[2], $gross - $allowance, $allowance);
    }

    /** The same as it would be typed: "12 × 4.50 - 2.70". */
    public static function typed(string $quantity, string $price, int $allowance, string $currency): string
    {
        return $quantity.
            ' × '.
            $price.
            (0 === $allowance
                ? ''
                : ($allowance > 0 ? ' - ' : ' + ').Money::of(abs($allowance), $currency)->decimal());
    }
}
