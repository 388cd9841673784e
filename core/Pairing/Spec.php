<?php

declare(strict_types=1);

namespace Nelbix\Core\Pairing;

use Brick\Math\BigDecimal;
use Brick\Math\Exception\MathException;
use Nelbix\Core\Money\Currency;
use Nelbix\Core\Money\Money;
use Nelbix\Core\ProblemList;
use Nelbix\Core\Refused;

/** How two files are paired, as a JSON document has it. Source: commands.md, nelbix:pair. */
final readonly class Spec
{
    /**
     * @param array<string, array{string, string}> $columns by field: the column of the left file, and of the right one
     * @param bool $turnSign the right side has the other sign
     * @param non-empty-list<Rule> $rules
     */
    private function __construct(public array $columns, public bool $turnSign, public array $rules)
    {
    }

    /**
     * @param array<mixed> $spec
     * @param string $currency in which amounts are read
     *
     * @throws Refused with every problem
     */
    public static function of(array $spec, string $currency): self
    {
        $problems = new ProblemList();
        $columns = [];
        foreach (\is_array($spec['fields'] ?? null) ? $spec['fields'] : [] as $field => $column) {
            $pair = \is_array($column) ? array_values($column) : [$column, $column];
            if (!\is_string($pair[0] ?? null) || !\is_string($pair[1] ?? null)) {
                $problems->add(
                    'fields',
                    \sprintf('The field “%s” names a column, or the left one and the right one.', $field),
                );
                continue;
            }
            $columns[(string) $field] = [$pair[0], $pair[1]];
        }
        foreach (['amount', 'date'] as $needed) {
            if (!isset($columns[$needed])) {
                $problems->add('fields', \sprintf('Say which column holds the %s.', $needed));
            }
        }
        $rules = [];
        foreach (\is_array($spec['rules'] ?? null) ? array_values($spec['rules']) : [] as $n => $rule) {
            $rules[] = $problems->attempt(
                static fn (): Rule => self::rule($n + 1, \is_array($rule) ? $rule : [], array_keys($columns), $currency),
                \sprintf('rules.%d.', $n + 1),
            );
        }
        $rules = array_values(array_filter($rules));
        if ([] === $rules) {
            $problems->add('rules', 'There is no rule; write at least one.');
        }
        $problems->refuse();
        \assert([] !== $rules);

        return new self($columns, true === ($spec['turn_sign'] ?? false), $rules);
    }

    /**
     * @param array<mixed> $raw
     * @param list<string> $fields
     */
    private static function rule(int $number, array $raw, array $fields, string $currency): Rule
    {
        $problems = new ProblemList();
        $sides = [];
        foreach (['left', 'right'] as $side) {
            $sides[$side] = Rows::tryFrom(\is_string($raw[$side] ?? null) ? $raw[$side] : 'one');
            if (null === $sides[$side]) {
                $problems->add($side, 'Write one or any.');
            }
        }
        $agree = \is_array($raw['agree'] ?? null) ? array_values(array_filter($raw['agree'], is_string(...))) : [];
        foreach (array_diff($agree, $fields) as $unknown) {
            $problems->add('agree', \sprintf('There is no field “%s”.', mb_strimwidth($unknown, 0, 30, '…')));
        }
        $within = $raw['amount_within'] ?? '0';
        $within = \is_scalar($within) ? trim((string) $within) : '';
        $days = $raw['days_within'] ?? null;
        if (null !== $days && (!\is_int($days) || $days < 0)) {
            $problems->add('days_within', 'Days are a whole number, or left out for any.');
        }
        $percent = str_ends_with($within, '%') ? self::percent(rtrim($within, ' %'), $problems) : null;
        $amount = str_ends_with($within, '%')
            ? 0
            : $problems->attempt(
                static fn (): int => Money::parse($within, Currency::of($currency), 'amount_within')->minor,
            ) ?? 0;
        $problems->refuse();

        return new Rule(
            $number,
            $sides['left'] ?? Rows::One,
            $sides['right'] ?? Rows::One,
            $agree,
            abs($amount),
            $percent,
            \is_int($days) ? $days : null,
            true === ($raw['sole'] ?? false),
            false !== ($raw['certain'] ?? true),
        );
    }

    private static function percent(string $typed, ProblemList $problems): ?BigDecimal
    {
        try {
            $percent = BigDecimal::of($typed);
        } catch (MathException) {
            $percent = null;
        }
        if (null === $percent || $percent->isNegative() || $percent->isGreaterThan(100)) {
            $problems->add('amount_within', 'A percent lies between 0 and 100, such as 1%.');
        }

        return $percent;
    }
}
