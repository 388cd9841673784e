<?php

declare(strict_types=1);

namespace Nelbix\App\Pairing;

use Brick\Math\BigDecimal;
use Brick\Math\Exception\MathException;
use Nelbix\App\Platform\Fields;
use Nelbix\Core\Money\AmountInput;
use Nelbix\Core\Money\Currency;
use Nelbix\Core\Money\Money;
use Nelbix\Core\Pairing\Filter;
use Nelbix\Core\Pairing\Rows;
use Nelbix\Core\Pairing\Rule;
use Nelbix\Core\ProblemList;
use Nelbix\Core\Refused;

/**
 * The clauses of a rule as a person writes them and as they are kept: left, right, agree, within ("1.00" or "1%"), days, sole, certain,
 * filters, sums, and where a difference goes.
 *
 * @phpstan-type ClauseRow array{left: string, right: string, agree: list<string>, amount: string, percent: string, days: string,
 *     sole: bool, certain: bool, left_sum: string, right_sum: string, filters: list<array{side: string, field: string,
 *     operation: string, value: string}>, account: string, on: string}
 */
final class Clauses
{
    private const MOST_FILTERS = 6;

    /** On which day a difference is posted. */
    public const DAYS = [
        'left' => 'the day of the left row',
        'right' => 'the day of the right row',
        'today' => 'the books’ day',
    ];

    /**
     * @param array<mixed> $raw left, right, agree[], within, days, sole, certain, left_sum, right_sum, filters[], account, on
     * @param list<string> $fields that both sides share
     * @param list<string> $left further fields of the left side
     * @param list<string> $right further fields of the right side
     *
     * @return ClauseRow
     *
     * @throws Refused with every problem
     */
    public static function read(array $raw, array $fields, array $left, array $right, string $currency): array
    {
        $problems = new ProblemList();
        $text = (new Fields($raw))->text(...);
        foreach (['left', 'right'] as $side) {
            if (null === Rows::tryFrom($text($side))) {
                $problems->add($side, 'Say whether one row of this side belongs to a pair, or any number.');
            }
        }
        $agree = array_values(array_filter(\is_array($raw['agree'] ?? null) ? $raw['agree'] : [], is_string(...)));
        foreach (array_diff($agree, $fields) as $unknown) {
            $problems->add(
                'agree',
                \sprintf('Both sides have no field “%s”; choose from the list.', mb_strimwidth($unknown, 0, 30, '…')),
            );
        }
        [$amount, $percent] = self::within($text('within'), $currency, $problems);
        if ('' !== $text('days') && 1 !== preg_match('/\A\d{1,3}\z/', $text('days'))) {
            $problems->add('days', 'Days are a whole number up to 999, or empty for any.');
        }
        foreach (['left_sum' => [...$fields, ...$left], 'right_sum' => [...$fields, ...$right]] as $name => $known) {
            if ('' !== $text($name) && !\in_array($text($name), $known, true)) {
                $problems->add($name, 'Choose the field from the list.');
            }
        }
        if (!isset(self::DAYS['' === $text('on') ? 'left' : $text('on')])) {
            $problems->add('on', 'Choose the day from the list.');
        }
        $filters = self::filters($raw, [...$fields, ...$left, ...$right], $currency, $problems);
        $problems->refuse();
        $yes = static fn (string $key): bool => \in_array($raw[$key] ?? '', ['1', 'yes', true], true);

        return [
            'left' => $text('left'),
            'right' => $text('right'),
            'agree' => $agree,
            'amount' => $amount,
            'percent' => $percent,
            'days' => $text('days'),
            'sole' => $yes('sole'),
            'certain' => $yes('certain'),
            'left_sum' => $text('left_sum'),
            'right_sum' => $text('right_sum'),
            'filters' => $filters,
            'account' => mb_substr($text('account'), 0, 20),
            'on' => '' === $text('on') ? 'left' : $text('on'),
        ];
    }

    /** @return array{string, string} an amount in decimals, or a percent */
    public static function within(string $typed, string $currency, ProblemList $problems): array
    {
        $typed = str_replace(' ', '', $typed);
        if (!str_ends_with($typed, '%')) {
            $minor =
                '' === $typed
                    ? 0
                    : $problems->attempt(
                        static fn (): int => AmountInput::read($typed, Currency::of($currency), 'within')->minor,
                    ) ?? 0;
            if ($minor < 0) {
                $problems->add('within', 'How far amounts may be apart is not below zero.');
            }

            return [Money::of($minor, $currency)->decimal(), ''];
        }
        try {
            $percent = BigDecimal::of(str_replace(',', '.', rtrim($typed, '%')));
            if ($percent->isNegative() || $percent->isGreaterThan(50) || $percent->getScale() > 3) {
                throw Refused::because('within', '');
            }

            return ['0', (string) $percent];
        } catch (MathException|Refused) {
            $problems->add('within', 'A percent lies between 0 and 50, with three decimals at most.');

            return ['0', ''];
        }
    }

    /**
     * @param array<mixed> $raw
     * @param list<string> $fields
     *
     * @return list<array{side: string, field: string, operation: string, value: string}>
     */
    private static function filters(array $raw, array $fields, string $currency, ProblemList $problems): array
    {
        $filters = [];
        foreach (
            \is_array($raw['filters'] ?? null) ? \array_slice($raw['filters'], 0, self::MOST_FILTERS) : [] as $k => $row
        ) {
            $text = (new Fields(\is_array($row) ? $row : []))->text(...);
            if ('' === $text('field')) {
                continue;
            }
            $isAmount = Filter::AMOUNT === $text('field');
            $operations = $isAmount ? ['is', 'is not', 'above', 'below'] : ['is', 'is not', 'has', 'has not'];
            if (!$isAmount && !\in_array($text('field'), $fields, true)) {
                $problems->add("filters.$k.field", 'Choose the field from the list.');
            }
            if (!\in_array($text('operation'), $operations, true)) {
                $problems->add(
                    "filters.$k.operation",
                    \sprintf('Of this field one asks: %s.', implode(', ', $operations)),
                );
            }
            $value = $text('value');
            if ($isAmount) {
                $value =
                    (string) ($problems->attempt(
                        static fn (): int => AmountInput::read($value, Currency::of($currency), 'value')->minor,
                        "filters.$k.",
                    ) ?? 0);
            }
            $filters[] = [
                'side' => \in_array($text('side'), ['left', 'right'], true) ? $text('side') : 'both',
                'field' => $text('field'),
                'operation' => $text('operation'),
                'value' => mb_substr($value, 0, 120),
            ];
        }

        return $filters;
    }

    /** @param array<mixed> $kept as read() gives them */
    public static function rule(int $number, array $kept, string $currency): Rule
    {
        $text = static fn (string $key): string => \is_string($kept[$key] ?? null) ? $kept[$key] : '';
        $filters = [];
        foreach (\is_array($kept['filters'] ?? null) ? $kept['filters'] : [] as $f) {
            if (\is_array($f)) {
                $filters[] = new Filter(
                    (string) $f['side'],
                    (string) $f['field'],
                    (string) $f['operation'],
                    (string) $f['value'],
                );
            }
        }

        return new Rule(
            $number,
            Rows::from($text('left')),
            Rows::from($text('right')),
            array_values(array_filter(\is_array($kept['agree'] ?? null) ? $kept['agree'] : [], is_string(...))),
            Money::parse('' === $text('amount') ? '0' : $text('amount'), Currency::of($currency), 'amount')->minor,
            '' === $text('percent') ? null : BigDecimal::of($text('percent')),
            '' === $text('days') ? null : (int) $text('days'),
            true === ($kept['sole'] ?? false),
            true === ($kept['certain'] ?? false),
            $filters,
            $text('left_sum'),
            $text('right_sum'),
        );
    }
}
