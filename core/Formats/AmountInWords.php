<?php

declare(strict_types=1);

namespace Nelbix\Core\Formats;

use Nelbix\Core\Money\Money;

/** An amount as a check says it: "One thousand twenty-one and 01/100". Source: rules.md, Checks. */
final class AmountInWords
{
    public static function of(Money $money): string
    {
        if ($money->minor < 0) {
            throw new \LogicException('A check is never written for less than zero.');
        }
        $unit = 10 ** $money->currency->digits;
        $whole = intdiv($money->minor, $unit);
        $words = (new \NumberFormatter('en', \NumberFormatter::SPELLOUT))->format($whole);
        $text = ucfirst((string) $words);

        return 0 === $money->currency->digits
            ? $text
            : \sprintf('%s and %0'.$money->currency->digits.'d/%d', $text, $money->minor % $unit, $unit);
    }
}
