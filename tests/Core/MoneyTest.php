<?php

declare(strict_types=1);

namespace Nelbix\Tests\Core;

use Eris\Generators;
use Eris\TestTrait;
use Nelbix\Core\Formats\AmountInWords;
use Nelbix\Core\Money\AmountInput;
use Nelbix\Core\Money\Currency;
use Nelbix\Core\Money\Money;
use Nelbix\Core\Money\PricedAmount;
use Nelbix\Core\Money\Rounding;
use Nelbix\Core\Money\Shares;
use Nelbix\Core\Refused;
use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\TestCase;

final class MoneyTest extends TestCase
{
    use TestTrait;

    /** Minor units: ISO 4217. */
    public function testMinorUnits(): void
    {
        self::assertSame(2, Currency::of('USD')->digits);
        self::assertSame(0, Currency::of('JPY')->digits);
        self::assertSame(3, Currency::of('KWD')->digits);
        self::assertSame(1280, Money::parse('1280', 'JPY')->minor);
        self::assertSame('1.280', Money::of(1280, 'KWD')->decimal());
    }

    /** @return iterable<string, array{string, string, int}> source: interface.md, Amounts */
    public static function amounts(): iterable
    {
        yield 'plain' => ['1280.00', 'USD', 128000];
        yield 'grouped' => ['1,280.00', 'USD', 128000];
        yield 'grouped millions' => ['12,345,678.9', 'USD', 1234567890];
        yield 'quotient' => ['1200/3', 'USD', 40000];
        yield 'sum' => ['450+32.50', 'USD', 48250];
        yield 'precedence' => ['2+3*4', 'USD', 1400];
        yield 'brackets' => ['2*(19.90-1)', 'USD', 3780];
        yield 'true minus' => ["\u{2212}5.25", 'USD', -525];
        yield 'rounds a quotient half away from zero' => ['-0.01/2', 'USD', -1];
        yield 'no decimals' => ['1000/3', 'JPY', 333];
        // rules.md, Money: below zero; the field's own currency is passed over
        yield 'in brackets' => ['(50.00)', 'USD', -5000];
        yield 'minus behind' => ['50.00-', 'USD', -5000];
        yield 'true minus behind' => ["50.00\u{2212}", 'USD', -5000];
        yield 'in brackets, grouped' => ['(1,250.00)', 'USD', -125000];
        yield 'brackets in a sum are a sum' => ['100-(50.00)', 'USD', 5000];
        yield 'a sum below zero' => ['-(20+30)', 'USD', -5000];
        yield 'the sign before' => ['$1,234.50', 'USD', 123450];
        yield 'the code behind' => ['1,234.50 USD', 'USD', 123450];
        yield 'the code before, small' => ['usd 12.50', 'USD', 1250];
        yield 'sign and minus' => ['-$12.50', 'USD', -1250];
        yield 'sign behind the minus' => ['$-12.50', 'USD', -1250];
        yield 'sign within brackets' => ['($12.50)', 'USD', -1250];
        yield 'brackets behind the sign' => ['€(12.50)', 'EUR', -1250];
        yield 'sign behind' => ['12.50 €', 'EUR', 1250];
        yield 'a narrow space' => ["1\u{202f}280.00", 'EUR', 128000];
        yield 'apostrophes' => ["1'280'000.00", 'CHF', 128000000];
        yield 'a curly one' => ['1’280.00', 'CHF', 128000];
        yield 'a space' => ['1 280.00', 'USD', 128000];
        yield 'thousands in a sum' => ['1,000+2,000.50', 'USD', 300050];
        yield 'spaces in a sum' => ['450 + 32.50', 'USD', 48250];
        yield 'only a fraction' => ['.5', 'USD', 50];
        yield 'three digits behind the comma are thousands' => ['1,280', 'USD', 128000];
        yield 'three digits behind the point' => ['1.280', 'KWD', 1280];
    }

    #[DataProvider('amounts')]
    public function testReadsWhatAClerkTypes(string $typed, string $currency, int $minor): void
    {
        self::assertSame($minor, AmountInput::read($typed, Currency::of($currency))->minor);
    }

    /** @return iterable<array{string}> */
    public static function noAmounts(): iterable
    {
        foreach (
            [
                '',
                'abc',
                '1.005',
                '1..2',
                '1/0',
                '(1+2',
                '1+',
                '1e9',
                '0x1A',
                '<script>',
                str_repeat('9', 30),
                str_repeat('(', 60),
                '1 000 000 000 000 000',
                // two readings, or a mark in the wrong place
                '1.280',
                '12,50',
                '1,28.00',
                '1,2345',
                '12345,678',
                '1 28',
                "1'280,000",
                '1,280 000',
                '1.280,50',
                '(450+32.50)',
                '(-50.00)',
                '-(50.00)',
                '-50.00-',
                '(50.00)-',
                '((50.00))',
                '()',
                '(',
                '-',
                // another currency, or two of them
                '€12.50',
                '12.50 EUR',
                '$12.50 USD',
                'USD',
                '$',
                '12 abc',
            ] as $text
        ) {
            yield [$text];
        }
    }

    #[DataProvider('noAmounts')]
    public function testRefusesWhatIsNoAmountAndNamesTheField(string $typed): void
    {
        try {
            AmountInput::read($typed, Currency::of('USD'), 'lines.0.amount');
            self::fail('accepted');
        } catch (Refused $e) {
            self::assertSame('lines.0.amount', $e->problems[0]->field);
            self::assertNotSame('', $e->problems[0]->message);
        }
    }

    /** Source: rules.md, Money. */
    public function testSharesByLargestRemainder(): void
    {
        self::assertSame([3334, 3333, 3333], Shares::split(10000, [1, 1, 1]));
        self::assertSame([-3334, -3333, -3333], Shares::split(-10000, [1, 1, 1]));
        $base = Money::of(10005, 'EUR')->convert('1.1111', 'USD')->minor;
        self::assertSame(11117, $base);
        self::assertSame([3706, 3706, 3705], Shares::split($base, [3335, 3335, 3335]));
        self::assertSame([6000, 6000, 8000], Shares::split(20000, [30000, 30000, 40001]));
    }

    public function testRoundsHalfAwayFromZero(): void
    {
        self::assertSame(3, Rounding::proportion(5, 1, 2));
        self::assertSame(-3, Rounding::proportion(-5, 1, 2));
        self::assertSame(2663, Rounding::toInt(\Brick\Math\BigRational::of('2663/1')));
        self::assertSame(1, Rounding::percent(50, '1'));
        self::assertSame(-1, Rounding::percent(-50, '1'));
    }

    public function testSharesAlwaysAddUp(): void
    {
        $this->limitTo(200)
            ->forAll(
                Generators::choose(-1_000_000_00, 1_000_000_00),
                Generators::vector(7, Generators::choose(0, 99_999)),
            )
            ->then(static function (int $total, array $weights): void {
                ++$weights[0];
                $parts = Shares::split($total, $weights);
                self::assertSame($total, array_sum($parts));
                foreach ($parts as $k => $part) {
                    self::assertLessThanOrEqual(1, abs($part - ($total * $weights[$k]) / array_sum($weights)));
                }
            });
    }

    /** Source: rules.md, Checks; the rest common practice on checks. */
    public function testAmountInWords(): void
    {
        self::assertSame('One thousand twenty-one and 01/100', AmountInWords::of(Money::of(102101, 'USD')));
        self::assertSame('Zero and 99/100', AmountInWords::of(Money::of(99, 'USD')));
        self::assertSame(
            'Twelve million three hundred forty-five thousand six hundred seventy-eight and 00/100',
            AmountInWords::of(Money::of(1234567800, 'USD')),
        );
        self::assertSame('Nineteen', AmountInWords::of(Money::of(19, 'JPY')));
        self::assertSame('One and 005/1000', AmountInWords::of(Money::of(1005, 'KWD')));
    }

    /**
     * @return iterable<array{string, string, ?array{int, int}}> source: EN 16931,
     *                                                           BT-131 = BT-129 × BT-146 − allowances + charges; rounding from rules.md
     */
    public static function priced(): iterable
    {
        yield ['12 × 4.50', 'USD', [5400, 0]];
        yield ['12*4.50 - 5%', 'USD', [5130, 270]];
        yield ['12 × 4.50 − 2.70', 'USD', [5130, 270]];
        yield ['3 × 20 + 7.50', 'USD', [6750, -750]];
        yield ['1 × 0.333333 - 50%', 'USD', [16, 17]];
        yield ['2 × 100 - 10%', 'JPY', [180, 20]];
        yield ['2 × 100 - 100%', 'USD', [0, 20000]];
        yield ['12.50', 'USD', null];
        yield ['450+32.50', 'USD', null];
        yield ['2*(3+4)', 'USD', null];
    }

    /** @param array{int, int}|null $expected */
    #[DataProvider('priced')]
    public function testQuantityTimesPrice(string $typed, string $currency, ?array $expected): void
    {
        $priced = PricedAmount::read($typed, Currency::of($currency), 'amount');
        self::assertSame($expected, null === $priced ? null : [$priced->amount, $priced->allowance]);
        if (null !== $priced) {
            self::assertEquals(
                $priced,
                PricedAmount::read(
                    PricedAmount::typed($priced->quantity, $priced->price, $priced->allowance, $currency),
                    Currency::of($currency),
                    'amount',
                ),
                'it reads itself back',
            );
        }
    }

    public function testMoreOffThanThereIs(): void
    {
        $this->expectException(Refused::class);
        PricedAmount::read('2 × 10 - 20.01', Currency::of('USD'), 'amount');
    }

    /** Every code is one that ICU knows, and ZZZ is none. Source: ICU's list of currencies. */
    public function testCurrenciesAreThoseOfTheStandard(): void
    {
        $icu =
            \ResourceBundle::create('en', 'ICUDATA-curr', true)?->get('Currencies') ?? self::fail('ICU has no list.');
        $known = array_keys(iterator_to_array($icu));
        $codes = (new \ReflectionClassConstant(Currency::class, 'CODES'))->getValue();
        self::assertIsString($codes);
        foreach (array_diff(explode(' ', $codes), ['SLE', 'VED', 'ZWG']) as $code) {
            self::assertContains($code, $known);
        }
        self::assertSame(
            [0, 3, 4],
            [Currency::of('ISK')->digits, Currency::of('KWD')->digits, Currency::of('CLF')->digits],
        );
        $this->expectException(Refused::class);
        Currency::of('ZZZ');
    }
}
