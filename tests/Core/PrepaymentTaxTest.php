<?php

declare(strict_types=1);

namespace Nelbix\Tests\Core;

use Brick\Math\BigDecimal;
use Nelbix\Core\Tax\PrepaymentTax;
use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\TestCase;

/** Source: rules.md, Tax (an inclusive price holds gross × rate / (1 + rate)) and Journal entries, Customer prepayment received. */
final class PrepaymentTaxTest extends TestCase
{
    /** @return iterable<string, array{int, string, int}> gross, rate, tax; worked by hand */
    public static function inside(): iterable
    {
        yield '20 % in 1,200.00' => [120000, '20', 20000];
        yield '19 % in 1,000.00: 159.6638…' => [100000, '19', 15966];
        yield '7 % in 0.08: 0.0052…' => [8, '7', 1];
        yield 'half a cent goes away from zero: 25 % in 0.50 is 0.10, in 0.0125 of a cent' => [50, '25', 10];
        yield 'no rate' => [1000, '0', 0];
    }

    #[DataProvider('inside')]
    public function testInside(int $gross, string $rate, int $tax): void
    {
        self::assertSame($tax, PrepaymentTax::inside($gross, BigDecimal::of($rate)));
    }

    public function testPartsAddUpWhateverTheyAre(): void
    {
        mt_srand(7);
        for ($n = 0; $n < 500; ++$n) {
            $original = mt_rand(1, 100000);
            $tax = PrepaymentTax::inside($original, BigDecimal::of((string) mt_rand(0, 27)));
            [$open, $left] = [$original, $tax];
            while ($open > 0) {
                $part = mt_rand(1, $open);
                $share = PrepaymentTax::share($tax, $original, $part, $left, $part === $open);
                self::assertGreaterThanOrEqual(0, $share);
                self::assertLessThanOrEqual($left, $share);
                $open -= $part;
                $left -= $share;
            }
            self::assertSame(0, $left);
        }
    }
}
