<?php

declare(strict_types=1);

namespace Nelbix\Core\Money;

use Brick\Math\BigRational;
use Brick\Math\RoundingMode;
use Nelbix\Core\Refused;

/**
 * Understands what a clerk types into an amount field: "1,280.00", "450+32.50", "1200/3", "2*(19.90-1)"; "(50.00)" and "50.00-" are below
 * zero; the field's own currency may stand beside it. A plain number must fit the currency's decimals; the result of a sum is rounded to
 * them once. What has two readings is refused. Source: rules.md, Money.
 */
final class AmountInput
{
    private int $at = 0;

    /** @param list<string> $tokens */
    private function __construct(private readonly array $tokens, private readonly string $field)
    {
    }

    /** A number with its thousands in groups of three by one mark, or without any. */
    private const NUMBER = '(?:\d{1,3}(?:(?<mark>[,\' ])\d{3})(?:\k<mark>\d{3})*|\d+)(?:\.\d+)?|\.\d+';

    /** @throws Refused when it cannot be read as an amount; the message names $field */
    public static function read(string $text, Currency $currency, string $field = 'amount'): Money
    {
        $plain = trim(str_replace(["\u{2212}", "\u{d7}", "\u{a0}", "\u{202f}", '’'], ['-', '*', ' ', ' ', "'"], $text));
        if (\strlen($plain) > 100) {
            throw Refused::because($field, 'The amount is too long; write it like 1280.00 or 450+32.50.');
        }
        $plain = self::ungrouped(self::withoutCurrency($plain, $currency, $field), $text, $field);
        $sign = '';
        if (1 === preg_match('/\A(\((?:[^()]|(?1))*\))\z|\A[\d.]+-\z/', $plain)) {
            $plain = str_ends_with($plain, '-') ? substr($plain, 0, -1) : substr($plain, 1, -1);
            $sign = '-';
            if (1 !== preg_match('/\A(\d+(\.\d+)?|\.\d+)\z/', $plain)) {
                throw Refused::because(
                    $field,
                    \sprintf(
                        '“%s” may be meant above or below zero; write %s without the outer brackets, or with a minus before it.',
                        mb_strimwidth($text, 0, 40, '…'),
                        mb_strimwidth($plain, 0, 40, '…'),
                    ),
                );
            }
        } elseif (1 === preg_match('/\A-+\(-?[\d.]+\)\z/', $plain)) {
            throw Refused::because(
                $field,
                \sprintf(
                    '“%s” may be meant above or below zero; write it with one minus, or with none.',
                    mb_strimwidth($text, 0, 40, '…'),
                ),
            );
        }
        if ($currency->digits < 3 && 1 === preg_match('/\A-?\d{1,3}\.\d{3}\z/', $plain)) {
            throw Refused::because(
                $field,
                \sprintf(
                    '“%s” may be thousands; write %s, or no more than %d decimals.',
                    mb_strimwidth($text, 0, 40, '…'),
                    str_replace('.', ',', $plain),
                    $currency->digits,
                ),
            );
        }
        if (1 === preg_match('/\A-?(\d+(\.\d+)?|\.\d+)\z/', $plain)) {
            return Money::parse($sign.(str_starts_with($plain, '.') ? '0'.$plain : $plain), $currency, $field);
        }
        if (1 !== preg_match_all('/\A(?:\d+(?:\.\d+)?|\.\d+|[-+*\/()])+\z/', $plain)) {
            throw Refused::because(
                $field,
                \sprintf(
                    '“%s” is not an amount; write it like 1280.00 or 450+32.50.',
                    mb_strimwidth($text, 0, 40, '…'),
                ),
            );
        }
        preg_match_all('/\d+(?:\.\d+)?|\.\d+|[-+*\/()]/', $plain, $found);
        $parser = new self($found[0], $field);
        $value = $parser->sum(0);
        if ($parser->at < \count($parser->tokens)) {
            throw $parser->unreadable();
        }
        $decimal = $value->toScale($currency->digits, RoundingMode::HALF_UP);

        return Money::parse((string) $decimal, $currency, $field);
    }

    /**
     * The field's own currency, by its code or its sign, before or behind the amount.
     *
     * @throws Refused when it is another one
     */
    private static function withoutCurrency(string $plain, Currency $currency, string $field): string
    {
        $without = preg_replace(
            '/(?<=[\d)-])\s*\p{Sc}|\p{Sc}\s*(?=[\d.(-])|(?<![A-Za-z])[A-Za-z]{3}(?![A-Za-z])/u',
            '',
            $plain,
            1,
            $found,
        );
        if (null === $without || 1 !== $found) {
            return $plain;
        }
        preg_match('/\p{Sc}|[A-Za-z]{3}/u', $plain, $m);
        $named = strtoupper($m[0] ?? '');
        if ($named !== $currency->code && $named !== $currency->sign()) {
            if (1 === preg_match('/\A[A-Z]{3}\z/', $named) && !Currency::isKnown($named)) {
                return $plain;
            }
            throw Refused::because(
                $field,
                \sprintf('This amount is in %s; “%s” is another currency.', $currency->code, $m[0] ?? ''),
            );
        }

        return trim($without);
    }

    /**
     * Without the marks between thousands, and without spaces around what is reckoned.
     *
     * @throws Refused when a mark stands where none belongs
     */
    private static function ungrouped(string $plain, string $text, string $field): string
    {
        $plain = (string) preg_replace('/\s*([-+*\/()])\s*/', '$1', $plain);
        $bare = (string) preg_replace_callback(
            '/'.self::NUMBER.'/',
            static fn (array $m): string => str_replace([',', ' ', "'"], '', $m[0]),
            $plain,
        );
        // numbers that would run into each other: a mark stood in the wrong place
        $apart = preg_split('/'.self::NUMBER.'/', $plain) ?: [];
        if (
            1 === preg_match("/[, ']/", $bare)
            || [] !== array_filter(\array_slice($apart, 1, -1), static fn (string $s): bool => '' === $s)
        ) {
            throw Refused::because(
                $field,
                \sprintf(
                    '“%s” has a mark where none belongs: thousands are apart by three, decimals by a point. Write it like 1,280.00.',
                    mb_strimwidth($text, 0, 40, '…'),
                ),
            );
        }

        return $bare;
    }

    private function sum(int $depth): BigRational
    {
        $value = $this->product($depth);
        while (\in_array($this->peek(), ['+', '-'], true)) {
            $operator = $this->tokens[$this->at++];
            $right = $this->product($depth);
            $value = '+' === $operator ? $value->plus($right) : $value->minus($right);
        }

        return $value;
    }

    private function product(int $depth): BigRational
    {
        $value = $this->factor($depth);
        while (\in_array($this->peek(), ['*', '/'], true)) {
            $operator = $this->tokens[$this->at++];
            $right = $this->factor($depth);
            if ('/' === $operator && $right->isZero()) {
                throw Refused::because($this->field, 'An amount cannot be divided by zero.');
            }
            $value = '*' === $operator ? $value->multipliedBy($right) : $value->dividedBy($right);
        }

        return $value;
    }

    private function factor(int $depth): BigRational
    {
        $token = $this->peek();
        if (null === $token || $depth > 20) {
            throw $this->unreadable();
        }
        ++$this->at;
        if ('-' === $token) {
            return $this->factor($depth + 1)->negated();
        }
        if ('(' === $token) {
            $value = $this->sum($depth + 1);
            if (')' !== $this->peek()) {
                throw $this->unreadable();
            }
            ++$this->at;

            return $value;
        }
        if (1 !== preg_match('/\A[\d.]+\z/', $token)) {
            throw $this->unreadable();
        }

        return BigRational::of($token);
    }

    private function peek(): ?string
    {
        return $this->tokens[$this->at] ?? null;
    }

    private function unreadable(): Refused
    {
        return Refused::because(
            $this->field,
            \sprintf('“%s” is not a complete sum; write it like 450+32.50.', implode('', $this->tokens)),
        );
    }
}
