<?php

declare(strict_types=1);

namespace Nelbix\App\Setup\NewCompany;

/**
 * What a new company is offered: terms, tax codes, the order of dates, whether it draws checks. Nothing of it is more than a start; the
 * controller changes and retires all of it. Rates are from memory, as of 2026; terms are common practice.
 *
 * @phpstan-type TermRow array{string, string, string, array<string, string>}
 * @phpstan-type TaxRow array{code: string, text: string, rate: string, use: string, reverse: bool, corrects: bool}
 */
final readonly class CompanyTemplate
{
    private const TERMS = [
        'NOW' => ['due at once', 'both', ['net' => '0']],
        'N10' => ['net 10 days', 'both', ['net' => '10']],
        'N14' => ['net 14 days', 'both', ['net' => '14']],
        'N15' => ['net 15 days', 'both', ['net' => '15']],
        'N30' => ['net 30 days', 'both', ['net' => '30']],
        'N45' => ['net 45 days', 'both', ['net' => '45']],
        'N60' => ['net 60 days', 'both', ['net' => '60']],
        '2-10-N30' => ['2 % within 10 days, net 30', 'both', ['net' => '30', 'discounts' => '2@10']],
        '2-14-N30' => ['2 % within 14 days, net 30', 'both', ['net' => '30', 'discounts' => '2@14']],
        '1-10-N30' => ['1 % within 10 days, net 30', 'both', ['net' => '30', 'discounts' => '1@10']],
        '3-10-2-20-N45' => [
            '3 % within 10 days, 2 % within 20, net 45',
            'vendors',
            ['net' => '45', 'discounts' => '3@10 2@20'],
        ],
        '1-14-N45' => ['1 % within 14 days, net 45', 'customers', ['net' => '45', 'discounts' => '1@14']],
        'MONTH10' => ['day 10 of the next month', 'both', ['net' => '+1m10']],
        'MONTHEND' => ['last day of the next month', 'both', ['net' => '+1m31']],
        'THIRDS' => ['30 % in 30 days, 30 % in 60, 40 % in 90', 'both', ['instalments' => '30@30 30@60 40@90']],
    ];

    /** The sample's, which tests and the demo know. */
    private const SAMPLE = ['NOW', 'N10', 'N30', 'N60', '2-10-N30', '3-10-2-20-N45', '1-14-N45', 'MONTH10', 'THIRDS'];

    /** Countries that write the month before the day. */
    private const MONTH_FIRST = ['US', 'PR', 'GU', 'VI', 'AS', 'MP', 'FM', 'MH', 'PW', 'PH'];

    /** Countries where businesses still pay by check. */
    private const CHECKS = ['US', 'CA', 'PR', 'GU', 'VI', 'AS', 'MP'];

    /**
     * @param list<TermRow> $terms code, text, used by, spec
     * @param list<TaxRow> $taxCodes
     */
    private function __construct(
        public array $terms,
        public array $taxCodes,
        public string $dateOrder,
        public bool $checks,
    ) {
    }

    /** The template of the demo: a tax of 8 % that no country has. */
    public static function sample(): self
    {
        return new self(
            self::terms(self::SAMPLE),
            [
                self::tax('P8', 'Purchase tax 8 %', '8', 'purchase'),
                self::tax('P0', 'Purchases without tax', '0', 'purchase'),
                self::tax('S8', 'Sales tax 8 %', '8', 'sale'),
                self::tax('S0', 'Sales without tax', '0', 'sale'),
            ],
            'month_day',
            true,
        );
    }

    /**
     * @param string $country two letters of ISO 3166
     * @param string $salesTax percent of state and local sales tax together, where sales tax is by place; empty for none
     */
    public static function ofCountry(string $country, string $salesTax = ''): self
    {
        return new self(
            self::terms(
                match (true) {
                    self::hasSalesTax($country), 'CA' === $country => [
                        'NOW',
                        'N10',
                        'N15',
                        'N30',
                        'N45',
                        'N60',
                        '2-10-N30',
                        '1-10-N30',
                        'MONTH10',
                    ],
                    default => ['NOW', 'N14', 'N30', 'N60', '2-14-N30', 'MONTH10', 'MONTHEND'],
                },
            ),
            match (true) {
                isset(VatRates::OF[$country]) => self::vat(VatRates::OF[$country]),
                'CA' === $country => self::canada(),
                default => [
                    self::tax('P0', 'Purchases, any tax is part of the cost', '0', 'purchase'),
                    self::tax('S0', 'Sales without tax', '0', 'sale'),
                    ...'' === $salesTax
                        ? []
                        : [self::tax('ST', \sprintf('Sales tax %s %%', $salesTax), $salesTax, 'sale')],
                ],
            },
            \in_array($country, self::MONTH_FIRST, true) ? 'month_day' : 'day_month',
            \in_array($country, self::CHECKS, true),
        );
    }

    /** Sales tax there is by place, so a company says its own. */
    public static function hasSalesTax(string $country): bool
    {
        return 'US' === $country;
    }

    /**
     * @param list<string> $codes
     *
     * @return list<TermRow>
     */
    private static function terms(array $codes): array
    {
        return array_map(static fn (string $code): array => [$code, ...self::TERMS[$code]], $codes);
    }

    /**
     * @param non-empty-list<string> $rates the standard rate first
     *
     * @return list<TaxRow>
     */
    private static function vat(array $rates): array
    {
        $codes = [];
        foreach ($rates as $rate) {
            $codes[] = self::tax(
                'P'.$rate,
                \sprintf('Purchases, %s %% VAT', $rate),
                $rate,
                'purchase',
                corrects: true,
            );
            $codes[] = self::tax('S'.$rate, \sprintf('Sales, %s %% VAT', $rate), $rate, 'sale', corrects: true);
        }

        return [
            ...$codes,
            self::tax('P0', 'Purchases without VAT', '0', 'purchase'),
            self::tax(
                'PR',
                \sprintf('Purchases from abroad, %s %% VAT owed by us', $rates[0]),
                $rates[0],
                'purchase',
                true,
            ),
            self::tax('S0', 'Sales without VAT, or exempt', '0', 'sale'),
            self::tax('SA', 'Sales abroad, VAT owed by the customer or none', '0', 'sale'),
        ];
    }

    /** @return list<TaxRow> */
    private static function canada(): array
    {
        $codes = [];
        foreach (
            [
                'G5' => ['5', 'GST 5 %'],
                'H13' => ['13', 'HST 13 %'],
                'H14' => ['14', 'HST 14 %'],
                'H15' => ['15', 'HST 15 %'],
                'Q' => ['14.975', 'GST 5 % and QST 9.975 %'],
            ] as $code => [$rate, $text]
        ) {
            $codes[] = self::tax('P'.$code, 'Purchases, '.$text, $rate, 'purchase');
            $codes[] = self::tax('S'.$code, 'Sales, '.$text, $rate, 'sale');
        }

        return [
            ...$codes,
            self::tax('P0', 'Purchases without tax', '0', 'purchase'),
            self::tax('S0', 'Sales without tax', '0', 'sale'),
        ];
    }

    /** @return TaxRow */
    private static function tax(
        string $code,
        string $text,
        string $rate,
        string $use,
        bool $reverse = false,
        bool $corrects = false,
    ): array {
        return [
            'code' => $code,
            'text' => $text,
            'rate' => $rate,
            'use' => $use,
            'reverse' => $reverse,
            'corrects' => $corrects,
        ];
    }
}
