<?php

declare(strict_types=1);

namespace Nelbix\Tests\Core;

use Brick\Math\BigDecimal;
use Nelbix\Core\Charges\Commission;
use PHPUnit\Framework\TestCase;

/** Source: rules.md, Commission. */
final class CommissionTest extends TestCase
{
    public function testTheWorkedFigure(): void
    {
        // net 1,000.00, tax 80.00, 5 %: 540.00 received is 25.00
        $net = Commission::netPart(54000, 100000, 108000);
        self::assertSame(50000, $net);
        self::assertSame(2500, Commission::of($net, BigDecimal::of(5)));
    }

    public function testCreditsLowerBothAndTheirShareIsNoMoney(): void
    {
        // a credit of 200.00 + 16.00: what is left is 800.00 of 864.00
        self::assertSame(80000, Commission::netPart(86400, 80000, 86400));
        // 1,000.00 paid by 700.00 of money and a credit of 300.00; an item of 400.00 among them was paid 280.00
        self::assertSame(28000, Commission::moneyOf(40000, 100000, 70000));
        self::assertSame(0, Commission::moneyOf(40000, 100000, 0), 'credits alone earn nothing');
        self::assertSame(0, Commission::netPart(100, 0, 0));
    }

    /** Paid in parts or at once comes to the same within a cent a part. */
    public function testPartsComeToTheWhole(): void
    {
        mt_srand(20261126);
        for ($n = 0; $n < 200; ++$n) {
            $net = mt_rand(1_000, 900_000);
            $total = $net + intdiv($net * mt_rand(0, 25), 100);
            $percent = BigDecimal::ofUnscaledValue(mt_rand(1, 1500), 2);
            $left = $total;
            $sum = 0;
            $parts = mt_rand(1, 6);
            for ($k = $parts; $k > 0; --$k) {
                $money = 1 === $k ? $left : mt_rand(0, $left);
                $sum += Commission::of(Commission::netPart($money, $net, $total), $percent);
                $left -= $money;
            }
            self::assertEqualsWithDelta(Commission::of($net, $percent), $sum, $parts);
        }
    }
}
