<?php

declare(strict_types=1);

namespace Nelbix\Core\Money;

use Brick\Math\BigDecimal;
use Brick\Math\Exception\MathException;
use Brick\Math\RoundingMode;
use Nelbix\Core\Refused;

/**
 * An amount of money: a whole number of the currency's minor unit. Immutable, never a float.
 * Source: rules.md, Money.
 */
final readonly class Money implements \Stringable
{
    private function __construct(public int $minor, public Currency $currency)
    {
    }

    /** @param int $minor in minor units: 1280 is 12.80 USD, 1280 JPY, 1.280 KWD */
    public static function of(int $minor, Currency|string $currency): self
    {
        return new self($minor, \is_string($currency) ? Currency::of($currency) : $currency);
    }

    public static function zero(Currency|string $currency): self
    {
        return self::of(0, $currency);
    }

    /**
     * Reads a plain decimal string such as "1280.00" or "-3.5".
     *
     * @throws Refused when it is no decimal number, has more decimals than the currency, or is too large
     */
    public static function parse(string $text, Currency|string $currency, string $field = 'amount'): self
    {
        $currency = \is_string($currency) ? Currency::of($currency) : $currency;
        $plain = str_replace(["\u{2212}", ' ', "\u{a0}"], ['-', '', ''], trim($text));
        if (1 !== preg_match('/\A-?\d{1,15}(\.\d+)?\z/', $plain)) {
            throw Refused::because(
                $field,
                \sprintf('“%s” is not an amount; write it like 1280.00.', mb_strimwidth($text, 0, 40, '…')),
            );
        }
        $decimal = BigDecimal::of($plain);
        if ($decimal->stripTrailingZeros()->getScale() > $currency->digits) {
            throw Refused::because(
                $field,
                \sprintf(
                    '“%s” has too many decimals; %s has %s.',
                    $text,
                    $currency->code,
                    0 === $currency->digits ? 'none' : $currency->digits,
                ),
            );
        }
        $minor = $decimal->withPointMovedRight($currency->digits)->toScale(0, RoundingMode::HALF_UP);
        if ($minor->abs()->isGreaterThan('900000000000000')) {
            throw Refused::because($field, \sprintf('“%s” is too large an amount.', $text));
        }

        return new self($minor->toInt(), $currency);
    }

    public function plus(self $other): self
    {
        $this->same($other);

        return new self($this->minor + $other->minor, $this->currency);
    }

    public function minus(self $other): self
    {
        $this->same($other);

        return new self($this->minor - $other->minor, $this->currency);
    }

    public function negated(): self
    {
        return new self(-$this->minor, $this->currency);
    }

    public function isZero(): bool
    {
        return 0 === $this->minor;
    }

    /**
     * Converts at a rate of target units per one unit of this currency, rounded once, half away from zero.
     *
     * @throws MathException never for a valid rate
     */
    public function convert(BigDecimal|string $rate, Currency|string $target): self
    {
        $target = \is_string($target) ? Currency::of($target) : $target;
        $exact = BigDecimal::ofUnscaledValue($this->minor, $this->currency->digits)->multipliedBy($rate);

        return new self(Rounding::toInt($exact->withPointMovedRight($target->digits)), $target);
    }

    /** Decimal string with the currency's digits: "1280.00", "-3.50". */
    public function decimal(): string
    {
        return self::decimalOf($this->minor, $this->currency->digits);
    }

    public static function decimalOf(int $minor, int $digits = 2): string
    {
        return (string) BigDecimal::ofUnscaledValue($minor, $digits);
    }

    public function __toString(): string
    {
        return $this->decimal().' '.$this->currency->code;
    }

    private function same(self $other): void
    {
        if (!$this->currency->equals($other->currency)) {
            throw new \LogicException(
                \sprintf('%s and %s do not add up without a rate.', $this->currency->code, $other->currency->code),
            );
        }
    }
}
