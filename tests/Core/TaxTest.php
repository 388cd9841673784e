<?php

declare(strict_types=1);

namespace Nelbix\Tests\Core;

use Brick\Math\BigDecimal;
use Nelbix\Core\Refused;
use Nelbix\Core\Tax\TaxCalculator;
use Nelbix\Core\Tax\TaxCode;
use Nelbix\Core\Tax\Withholding;
use PHPUnit\Framework\TestCase;

final class TaxTest extends TestCase
{
    private static function code(
        string $rate,
        bool $inclusive = false,
        ?string $recoverable = null,
        bool $reverse = false,
        bool $corrects = false,
        string $code = 'T',
    ): TaxCode {
        return new TaxCode(
            $code,
            BigDecimal::of($rate),
            $inclusive,
            null === $recoverable ? null : BigDecimal::of($recoverable),
            $reverse,
            $corrects,
        );
    }

    /** EN 16931 BR-CO-17: category tax = category taxable amount × rate, rounded once; line by line it would be 0.09. */
    public function testTaxIsRoundedOncePerCode(): void
    {
        $c = self::code('7');
        $r = TaxCalculator::compute([
            ['amount' => 45, 'code' => $c],
            ['amount' => 45, 'code' => $c],
            ['amount' => 45, 'code' => $c],
        ]);
        self::assertSame(9, $r->taxes['T']->tax);
        self::assertSame(135 + 9, $r->total());
    }

    public function testSeveralCodesAndAllowanceLine(): void
    {
        $a = self::code('25', code: 'A');
        $b = self::code('12', code: 'B');
        $r = TaxCalculator::compute([
            ['amount' => 10000, 'code' => $a],
            ['amount' => -1000, 'code' => $a],
            ['amount' => 5000, 'code' => $b],
            ['amount' => 300, 'code' => null],
        ]);
        self::assertSame([2250, 600, 14300, 17150], [$r->taxes['A']->tax, $r->taxes['B']->tax, $r->net, $r->total()]);
    }

    /** gross × rate / (1 + rate): rules.md, Tax. */
    public function testInclusivePrice(): void
    {
        $c = self::code('20', inclusive: true);
        $r = TaxCalculator::compute([['amount' => 6000, 'code' => $c], ['amount' => 6001, 'code' => $c]]);
        self::assertSame([2000, 10001, 12001], [$r->taxes['T']->tax, $r->net, $r->total()]);
        self::assertSame([5000, 5001], array_values($r->lineNets));
    }

    public function testUnrecoverableTaxGoesToTheLines(): void
    {
        $c = self::code('10', recoverable: '60');
        $r = TaxCalculator::compute([['amount' => 10000, 'code' => $c], ['amount' => 5000, 'code' => $c]]);
        self::assertSame([1500, 900], [$r->taxes['T']->tax, $r->taxes['T']->recoverable]);
        self::assertSame([400, 200], array_values($r->lineUnrecoverable));
    }

    public function testReverseChargeIsNotInTheTotal(): void
    {
        $r = TaxCalculator::compute([['amount' => 10000, 'code' => self::code('20', reverse: true)]]);
        self::assertSame([2000, 10000], [$r->taxes['T']->tax, $r->total()]);
    }

    public function testOverrideWithinTolerance(): void
    {
        $lines = [['amount' => 10000, 'code' => self::code('20')]];
        self::assertSame(12004, TaxCalculator::compute($lines, ['T' => 2004], 5)->total());
        $this->expectException(Refused::class);
        TaxCalculator::compute($lines, ['T' => 2006], 5);
    }

    /** 1,000.00 + 20 % tax, 2 %: 24.00 = 20.00 + 4.00. Source: rules.md, Payment terms. */
    public function testDiscountCorrectsTax(): void
    {
        $r = TaxCalculator::compute([['amount' => 100000, 'code' => self::code('20', corrects: true)]]);
        self::assertSame(
            ['net' => 2000, 'taxes' => ['T' => 400]],
            TaxCalculator::splitDiscount(2400, $r->net, $r->taxes),
        );
        $half = TaxCalculator::compute([
            ['amount' => 100000, 'code' => self::code('20', recoverable: '50', corrects: true)],
        ]);
        self::assertSame(
            ['net' => 2200, 'taxes' => ['T' => 200]],
            TaxCalculator::splitDiscount(2400, $half->net, $half->taxes),
        );
        $reverse = TaxCalculator::compute([
            ['amount' => 100000, 'code' => self::code('20', reverse: true, corrects: true)],
        ]);
        self::assertSame(
            ['net' => 2000, 'taxes' => ['T' => 400]],
            TaxCalculator::splitDiscount(2000, $reverse->net, $reverse->taxes),
        );
    }

    /** 1,000.00 + 200.00, 2 % discount 24.00, 10 %: withheld 98.00, paid 1,078.00. Source: rules.md, Tax. */
    public function testWithholding(): void
    {
        $withheld = TaxCalculator::withholding(100000, 2000, '10');
        self::assertSame(9800, $withheld);
        self::assertSame(107800, 120000 - 2400 - $withheld);
    }

    /**
     * The same through the value a payment run works with, on parts and credits too. Source: rules.md, Tax (whole); in proportion on
     * part payments.
     */
    public function testWithholdingOnPartsAndCredits(): void
    {
        $withholding = new Withholding(BigDecimal::of('10'), 100000, 120000);
        self::assertSame(9800, $withholding->on(120000, 2400));
        self::assertSame(4900, $withholding->on(60000, 1200), 'half of it');
        self::assertSame(-1000, $withholding->on(-12000, 0), 'a credit lowers what is withheld');
        for ($settled = 1; $settled < 120000; $settled += 997) {
            $both = $withholding->on($settled, 0) + $withholding->on(120000 - $settled, 0);
            self::assertEqualsWithDelta(10000, $both, 1, 'parts differ from the whole by a cent of rounding at most');
        }
    }
}
