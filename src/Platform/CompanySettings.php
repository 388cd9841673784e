<?php

declare(strict_types=1);

namespace Nelbix\App\Platform;

use Brick\Math\BigDecimal;
use Nelbix\Core\Formats\CreditorIdentifier;
use Nelbix\Core\Money\Currency;
use Nelbix\Core\Money\Money;
use Nelbix\Core\Money\Rounding;
use Nelbix\Core\Problem;
use Nelbix\Core\Refused;

/** The settings of one company. Amounts are kept as decimals in the base currency. Source: rules.md, Settings. */
final readonly class CompanySettings
{
    public const DEFAULTS = [
        'discount_base' => 'total',
        'tolerance_amount' => '1.00',
        'tolerance_percent' => '0.5',
        'tax_tolerance' => '0.05',
        'look_alike_days' => '10',
        'stale_check_days' => '180',
        'invoice_approval_above' => '10000.00',
        'write_off_approval_above' => '50.00',
        'journal_approval_above' => '10000.00',
        'reminder_above' => '5.00',
        'bank_charge_most' => '25.00',
        'aging_credits' => 'own',
        'deposit_slips' => 'no',
        'credit_limit' => 'warns',
        'creditor_id' => '',
        'debit_notice_days' => '5',
        'date_order' => 'month_day',
        'reversal_date' => 'original',
        'signed_off_days' => 'refused',
        'price_variance' => 'account',
        'order_approval_above' => '5000.00',
        'match_price_percent' => '2',
        'match_price_amount' => '',
        'match_quantity_percent' => '0',
        'match_quantity_units' => '',
        'match_total' => '10.00',
        'match_not_ordered' => 'held',
        'match_not_received' => 'held',
        'match_none' => 'posts',
        'match_apart' => 'no',
        'idle_minutes' => '60',
        'recoveries' => 'recovered',
        'bounced_interest' => 'never',
    ];

    /**
     * Round numbers that are worth about what 1.00 is in the currencies that are not named, by orders of magnitude; from memory. Only
     * what a new company is offered: a controller sets its own.
     */
    private const LIKE_ONE = [
        10 => ['CZK', 'DKK', 'EGP', 'HKD', 'MAD', 'MXN', 'NOK', 'SEK', 'THB', 'TRY', 'UAH', 'ZAR'],
        100 => ['HUF', 'INR', 'ISK', 'JPY', 'KES', 'PHP', 'RSD', 'RUB'],
        1_000 => ['CLP', 'COP', 'CRC', 'KRW', 'NGN', 'PYG', 'TZS', 'UGX', 'XAF', 'XOF'],
        10_000 => ['IDR', 'VND'],
    ];

    public const CHOICES = [
        'discount_base' => [
            'total' => 'invoice total',
            'net' => 'net of tax',
            'net_without_charges' => 'net of tax and charges',
        ],
        'aging_credits' => ['own' => 'in a column of their own', 'netted' => 'netted by their own date'],
        'deposit_slips' => [
            'no' => 'go straight to the bank account',
            'yes' => 'stand on hand until a deposit slip takes them there',
        ],
        'credit_limit' => ['warns' => 'is warned of', 'blocks' => 'is refused until somebody else releases it'],
        'date_order' => ['month_day' => 'month/day', 'day_month' => 'day/month'],
        'price_variance' => ['account' => 'the price variance account', 'line' => 'the account of the line'],
        'match_not_ordered' => [
            'held' => 'are held until somebody accepts them',
            'posts' => 'can be paid like any other',
        ],
        'match_not_received' => [
            'held' => 'are held until they come or somebody accepts them',
            'posts' => 'can be paid like any other',
        ],
        'match_none' => [
            'posts' => 'can be paid like any other',
            'held' => 'are held until somebody accepts them',
        ],
        'match_apart' => [
            'no' => 'may match and accept its invoice',
            'yes' => 'neither matches nor accepts its invoice',
        ],
        'signed_off_days' => [
            'refused' => 'is refused',
            'marked' => 'is posted, and stays marked on the sign-off',
        ],
        'recoveries' => [
            'recovered' => 'bad debts recovered',
            'allowance' => 'the allowance, where it came from there',
        ],
        'bounced_interest' => [
            'never' => 'as if it had never come',
            'from_bounce' => 'from the day it bounced',
        ],
        'reversal_date' => [
            'original' => 'the original date, while open and not signed off',
            'booksday' => 'the books’ day',
        ],
    ];

    /** Bounds that need not be: empty is none. */
    private const BOUNDS = [
        'match_price_percent' => 'a percent such as 2',
        'match_price_amount' => 'an amount each such as 0.10',
        'match_quantity_percent' => 'a percent such as 5',
        'match_quantity_units' => 'a quantity such as 1',
    ];

    private const AMOUNTS = [
        'order_approval_above',
        'match_total',
        'tolerance_amount',
        'tax_tolerance',
        'invoice_approval_above',
        'write_off_approval_above',
        'journal_approval_above',
        'reminder_above',
        'bank_charge_most',
    ];

    /** @var array<string, string> */
    public array $values;

    /** @param array<string, string> $kept */
    public function __construct(array $kept)
    {
        $this->values = array_merge(self::DEFAULTS, array_intersect_key($kept, self::DEFAULTS));
    }

    /**
     * The amounts of a new company, of like worth in its own currency. Source: rules.md, Tolerances and limits.
     *
     * @return array<string, string> by name of the setting
     */
    public static function offered(Currency $base): array
    {
        $times = 1;
        foreach (self::LIKE_ONE as $factor => $codes) {
            $times = \in_array($base->code, $codes, true) ? $factor : $times;
        }
        $offered = [];
        foreach (self::AMOUNTS as $name) {
            $amount = BigDecimal::of(self::DEFAULTS[$name])->multipliedBy($times);
            $offered[$name] = (string) $amount->toScale($base->digits, \Brick\Math\RoundingMode::HALF_UP);
        }

        return $offered;
    }

    /**
     * @param array<mixed> $raw
     *
     * @return array<string, string> what may be kept
     *
     * @throws Refused with every problem
     */
    public static function read(array $raw, Currency $base): array
    {
        $values = [];
        $problems = [];
        foreach (array_intersect_key($raw, self::DEFAULTS) as $name => $value) {
            $value = \is_string($value) ? trim($value) : '';
            try {
                $values[$name] = match (true) {
                    isset(self::CHOICES[$name]) => isset(self::CHOICES[$name][$value])
                        ? $value
                        : throw Refused::because($name, 'Choose one of the offered values.'),
                    \in_array($name, self::AMOUNTS, true) => Money::parse($value, $base, $name)->decimal(),
                    'idle_minutes' === $name => 1 === preg_match('/\A[1-9]\d{0,3}\z/', $value) && (int) $value <= 720
                        ? $value
                        : throw Refused::because($name, 'Give a number of minutes, 1 to 720.'),
                    'creditor_id' === $name => '' === $value ? '' : CreditorIdentifier::read($value, $name),
                    'debit_notice_days' === $name => 1 === preg_match('/\A\d{1,2}\z/', $value) && (int) $value <= 30
                        ? (string) (int) $value
                        : throw Refused::because($name, 'Give a number of days, 0 to 30.'),
                    isset(self::BOUNDS[$name]) => '' === $value || 1 === preg_match('/\A\d{1,6}(\.\d{1,6})?\z/', $value)
                        ? $value
                        : throw Refused::because(
                            $name,
                            \sprintf('Give %s, or leave it empty for no bound.', self::BOUNDS[$name]),
                        ),
                    \in_array($name, ['look_alike_days', 'stale_check_days'], true) => 1 ===
                    preg_match('/\A\d{1,3}\z/', $value)
                        ? (string) (int) $value
                        : throw Refused::because($name, 'Give a number of days, 0 to 999.'),
                    default => 1 === preg_match('/\A\d{1,2}(\.\d{1,4})?\z/', $value)
                        ? $value
                        : throw Refused::because($name, 'Give a percent such as 0.5.'),
                };
                if (str_starts_with($values[$name], '-')) {
                    throw Refused::because($name, 'This amount cannot be negative.');
                }
            } catch (Refused $e) {
                array_push(
                    $problems,
                    ...array_map(static fn (Problem $p): Problem => new Problem($name, $p->message), $e->problems),
                );
            }
        }
        if ([] !== $problems) {
            throw Refused::all($problems);
        }

        return $values;
    }

    public function monthFirst(): bool
    {
        return 'month_day' === $this->values['date_order'];
    }

    /** Days after which a check that no statement has shown is stale. */
    public function staleCheckDays(): int
    {
        return (int) $this->values['stale_check_days'];
    }

    public function lookAlikeDays(): int
    {
        return (int) $this->values['look_alike_days'];
    }

    /** Minor units of the base currency. */
    public function amount(string $name, string $baseCurrency): int
    {
        return BigDecimal::of($this->values[$name])
            ->withPointMovedRight(Currency::of($baseCurrency)->digits)
            ->toScale(0, \Brick\Math\RoundingMode::HALF_UP)
            ->toInt();
    }

    /** The smaller of the fixed tolerance and its percent of an amount, minor units. */
    public function smallDifference(int $amount, string $currency): int
    {
        return min(
            $this->amount('tolerance_amount', $currency),
            Rounding::percent(abs($amount), $this->values['tolerance_percent']),
        );
    }
}
