<?php

declare(strict_types=1);

namespace Nelbix\Tests\Core;

use Brick\Math\BigDecimal;
use Nelbix\Core\Refused;
use Nelbix\Core\Tax\CorrectedTaxes;
use Nelbix\Core\Tax\TaxCalculator;
use Nelbix\Core\Tax\TaxCode;
use Nelbix\Core\Tax\Withholding;
use PHPUnit\Framework\Attributes\DataProvider;
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

    /**
     * Each line: net, rate, corrects, reverse charge, recoverable percent. Source of every case: rules.md, Payment terms.
     *
     * @return iterable<string, array{list<array{int, string, bool, bool, string}>, int, int, array<string, int>, array<string, int>}>
     */
    public static function correctedDiscounts(): iterable
    {
        $corrects = [100000, '20', true, false, '100'];
        yield 'one code' => [[$corrects], 2400, 2000, ['A' => 400], []];
        yield 'mixed with a code that does not correct' => [
            [$corrects, [100000, '5', false, false, '100']],
            4500,
            4100,
            ['A' => 400],
            [],
        ];
        yield 'mixed with reverse charge' => [
            [$corrects, [50000, '20', true, true, '100']],
            3400,
            3000,
            ['A' => 400, 'B' => 200],
            ['B' => 200],
        ];
        yield 'half recoverable' => [[[100000, '20', true, false, '50']], 2400, 2200, ['A' => 200], []];
        yield 'reverse charge, half recoverable' => [
            [[100000, '20', true, true, '50']],
            2000,
            2200,
            ['A' => 200],
            ['A' => 400],
        ];
    }

    /**
     * @param list<array{int, string, bool, bool, string}> $lines
     * @param array<string, int> $input
     * @param array<string, int> $output
     */
    #[DataProvider('correctedDiscounts')]
    public function testDiscountCorrectsTax(array $lines, int $discount, int $left, array $input, array $output): void
    {
        $computed = [];
        foreach ($lines as $k => [$net, $rate, $corrects, $reverse, $recoverable]) {
            $computed[] = [
                'amount' => $net,
                'code' => new TaxCode(
                    \chr(65 + $k),
                    BigDecimal::of($rate),
                    false,
                    BigDecimal::of($recoverable),
                    $reverse,
                    $corrects,
                ),
            ];
        }
        $r = TaxCalculator::compute($computed);
        self::assertEquals(
            new CorrectedTaxes($left, $input, $output),
            TaxCalculator::correctedBy($discount, $r->net, $r->taxes),
        );
    }

    /** Whatever the invoice, the parts of a discount add up to it, and a part is never more than the tax it corrects. */
    public function testCorrectedTaxesAddUp(): void
    {
        mt_srand(20261125);
        for ($n = 0; $n < 500; ++$n) {
            $lines = [];
            foreach (range(0, mt_rand(0, 3)) as $k) {
                $lines[] = [
                    'amount' => mt_rand(1, 1_000_000),
                    'code' => new TaxCode(
                        \chr(65 + $k),
                        BigDecimal::of(mt_rand(0, 25)),
                        false,
                        BigDecimal::of(mt_rand(0, 4) * 25),
                        1 === mt_rand(0, 3),
                        1 === mt_rand(0, 1),
                    ),
                ];
            }
            $r = TaxCalculator::compute($lines);
            $discount = intdiv($r->total(), mt_rand(2, 100));
            $corrected = TaxCalculator::correctedBy($discount, $r->net, $r->taxes);
            self::assertSame(
                $discount,
                $corrected->discount + array_sum($corrected->input) - array_sum($corrected->output),
            );
            foreach ($corrected->input as $name => $part) {
                self::assertLessThanOrEqual($r->taxes[$name]->recoverable, $part);
            }
        }
    }

    /** 1,000.00 + 200.00, 2 % discount 24.00, 10 %: withheld 98.00, paid 1,078.00. Source: rules.md, Tax. */
    public function testWithholding(): void
    {
        $withheld = (new Withholding(BigDecimal::of('10'), 100000, 120000))->on(120000, 2400);
        self::assertSame(9800, $withheld);
        self::assertSame(107800, 120000 - 2400 - $withheld);
        $ofNet = new Withholding(BigDecimal::of('10'), 100000, 120000, true);
        self::assertSame(9800, $ofNet->on(120000, 2000), 'a discount of the net alone is all net');
    }

    /**
     * Rounded once. Of 100.00 + 20.00 tax, X settled with a discount of D: 15 % of (X − D) × 100 / 120, worked by hand.
     *
     * @return iterable<string, array{int, int, int}>
     */
    public static function roundedOnce(): iterable
    {
        yield '1004 × 0.125 = 125.5' => [1024, 20, 126];
        yield '1052 × 0.125 = 131.5' => [1073, 21, 132];
        yield '1292 × 0.125 = 161.5' => [1318, 26, 162];
        yield 'without a discount, 12000 × 0.125' => [12000, 0, 1500];
    }

    #[DataProvider('roundedOnce')]
    public function testWithholdingIsRoundedOnce(int $settled, int $discount, int $withheld): void
    {
        self::assertSame($withheld, (new Withholding(BigDecimal::of('15'), 10000, 12000))->on($settled, $discount));
    }

    /** In any parts an item withholds together what it would in one. Source: rules.md, Tax. */
    public function testPartsWithholdTogetherWhatTheWholeWould(): void
    {
        mt_srand(7);
        for ($n = 0; $n < 300; ++$n) {
            $net = mt_rand(100, 1_000_000);
            $total = $net + mt_rand(0, intdiv($net, 4));
            $percent = BigDecimal::of(mt_rand(1, 30));
            $open = $total;
            $paid = $withheld = 0;
            while ($open > 0) {
                $part = mt_rand(0, 2) > 0 ? mt_rand(1, $open) : $open;
                $rule = new Withholding($percent, $net, $total, false, $paid, 0, $withheld);
                $withheld += $rule->on($part, 0, $part === $open);
                $paid += $part;
                $open -= $part;
            }
            self::assertSame((new Withholding($percent, $net, $total))->on($total, 0), $withheld);
        }
        self::assertSame(
            -1000,
            (new Withholding(BigDecimal::of('10'), 100000, 120000))->on(-12000, 0),
            'a credit lowers what is withheld',
        );
    }
}
