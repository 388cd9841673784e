<?php

declare(strict_types=1);

namespace Nelbix\Core\Money;

use Brick\Math\BigRational;
use Brick\Math\RoundingMode;
use Nelbix\Core\Refused;

/**
 * Understands what a clerk types into an amount field: "1,280.00", "450+32.50", "1200/3", "2*(19.90-1)".
 * A plain number must fit the currency's decimals; the result of a sum is rounded to them once.
 */
final class AmountInput
{
    private int $at = 0;

    /** @param list<string> $tokens */
    private function __construct(private readonly array $tokens, private readonly string $field)
    {
    }

    /** @throws Refused when it cannot be read as an amount; the message names $field */
    public static function read(string $text, Currency $currency, string $field = 'amount'): Money
    {
        $plain = preg_replace(
            '/(?<=\d),(?=\d{3}(?!\d))/',
            '',
            str_replace(["\u{2212}", "\u{d7}", ' ', "\u{a0}"], ['-', '*', '', ''], trim($text)),
        );
        if (null === $plain || \strlen($plain) > 100) {
            throw Refused::because($field, 'The amount is too long; write it like 1280.00 or 450+32.50.');
        }
        if (1 === preg_match('/\A-?\d+(\.\d+)?\z/', $plain)) {
            return Money::parse($plain, $currency, $field);
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
