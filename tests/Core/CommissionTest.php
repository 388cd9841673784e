<?php

declare(strict_types=1);

namespace Nelbix\Tests\Core;

use Brick\Math\BigDecimal;
use Nelbix\Core\Charges\Commission;
use PHPUnit\Framework\Attributes\DataProvider;
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

    /**
     * Source: rules.md, Commission: net 1,000.00 + 80.00, 5 %, 540.00 in April: 25.00; a credit of 200.00 net without tax in June: −0.45.
     *
     * @return iterable<string, array{list<array{int, int, int}>, list<int>}> money, net and total credited; commissions
     */
    public static function lives(): iterable
    {
        yield 'a credit later' => [[[54000, 0, 0], [0, 20000, 20000]], [2500, -45]];
        yield 'a credit before' => [[[0, 20000, 20000], [54000, 0, 0]], [0, 2455]];
        yield 'and undone: all is given back' => [
            [[54000, 0, 0], [0, 20000, 20000], [-54000, 0, 0]],
            [2500, -45, -2455],
        ];
        yield 'the credit is taken back' => [[[54000, 0, 0], [0, 20000, 20000], [0, -20000, -20000]], [2500, -45, 45]];
        yield 'credited whole' => [[[54000, 0, 0], [0, 100000, 108000]], [2500, -2500]];
        yield 'in two parts' => [[[54000, 0, 0], [54000, 0, 0]], [2500, 2500]];
    }

    /**
     * @param list<array{int, int, int}> $events
     * @param list<int> $expected
     */
    #[DataProvider('lives')]
    public function testEveryEventCountsOnItsDay(array $events, array $expected): void
    {
        $changes = Commission::changes(
            100000,
            108000,
            BigDecimal::of(5),
            array_map(static fn (array $e): array => ['money' => $e[0], 'net' => $e[1], 'total' => $e[2]], $events),
        );
        self::assertSame($expected, array_column($changes, 'commission'));
    }

    /** Whatever happens in whatever order, all of it comes to what is earned of the money at last. */
    public function testEventsComeToWhatIsEarnedAtLast(): void
    {
        mt_srand(31);
        for ($n = 0; $n < 200; ++$n) {
            $net = mt_rand(1_000, 900_000);
            $total = $net + intdiv($net * mt_rand(0, 25), 100);
            $percent = BigDecimal::ofUnscaledValue(mt_rand(1, 1500), 2);
            $events = [];
            for ($k = mt_rand(1, 8); $k > 0; --$k) {
                $credit = 0 === mt_rand(0, 3) ? mt_rand(0, intdiv($net, 20)) : 0;
                $events[] =
                    0 === $credit
                        ? ['money' => mt_rand(0, intdiv($total, 10)), 'net' => 0, 'total' => 0]
                        : ['money' => 0, 'net' => $credit, 'total' => $credit];
            }
            $credited = array_sum(array_column($events, 'net'));
            self::assertSame(
                Commission::of(
                    Commission::netPart(
                        array_sum(array_column($events, 'money')),
                        $net - $credited,
                        $total - $credited,
                    ),
                    $percent,
                ),
                array_sum(array_column(Commission::changes($net, $total, $percent, $events), 'commission')),
            );
        }
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
