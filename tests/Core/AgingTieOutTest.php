<?php

declare(strict_types=1);

namespace Nelbix\Tests\Core;

use Nelbix\Core\Aging\Ager;
use Nelbix\Core\Aging\AgingSum;
use Nelbix\Core\Aging\Bucketing;
use Nelbix\Core\Aging\Credits;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Charges\FinanceCharge;
use Nelbix\Core\Refused;
use Nelbix\Core\TieOut\Movement;
use Nelbix\Core\TieOut\TieOut;
use PHPUnit\Framework\TestCase;

/** Sources: rules.md, Aging, Tie-out, Finance charges. */
final class AgingTieOutTest extends TestCase
{
    public function testBucketEdges(): void
    {
        $b = Bucketing::parse('30,60,90');
        $asOf = Day::of('2026-06-15');
        $expected = [
            '2026-06-16' => -1,
            '2026-06-15' => -1,
            '2026-06-14' => 0,
            '2026-05-16' => 0,
            '2026-05-15' => 1,
            '2026-04-16' => 1,
            '2026-04-15' => 2,
            '2026-03-17' => 2,
            '2026-03-16' => 3,
        ];
        foreach ($expected as $day => $index) {
            self::assertSame($index, $b->indexOf(Day::of($day), $asOf), $day);
        }
        self::assertSame(['1–30', '31–60', '61–90', 'over 90'], $b->labels());
    }

    /** A bucket's days are those that fall into it, whatever the way of counting. */
    public function testTheDaysOfABucketAreThoseThatFallIntoIt(): void
    {
        foreach (['30,60,90', '30x4', '7', '3m', '1m', '12m'] as $text) {
            $b = Bucketing::parse($text);
            foreach (['2026-06-15', '2026-06-01', '2026-03-31', '2028-02-29', '2026-01-01'] as $on) {
                $asOf = Day::of($on);
                self::assertCount($b->count(), $b->labels($asOf));
                for ($k = -400; $k <= 5; ++$k) {
                    $day = $asOf->plusDays($k);
                    for ($index = -1; $index < $b->count(); ++$index) {
                        [$from, $to] = $b->days($index, $asOf);
                        self::assertSame(
                            $b->indexOf($day, $asOf) === $index,
                            (null === $from || !$day->isBefore($from)) && (null === $to || !$day->isAfter($to)),
                            "$text on $on, $day in $index",
                        );
                    }
                }
            }
        }
    }

    /** By calendar months: common practice, aged from the first of the month. */
    public function testCalendarMonths(): void
    {
        $b = Bucketing::parse('3m');
        $asOf = Day::of('2026-06-15');
        self::assertSame(['Jun', 'May', 'Apr', 'before Apr'], $b->labels($asOf));
        foreach (
            ['2026-06-15' => -1, '2026-06-01' => 0, '2026-05-31' => 1, '2026-04-30' => 2, '2026-03-31' => 3] as $day => $k
        ) {
            self::assertSame($k, $b->indexOf(Day::of($day), $asOf), $day);
        }
        self::assertSame('30,60,90,120', Bucketing::parse('30 x 4')->text());
        self::assertSame('3m', $b->text());
    }

    public function testBadBuckets(): void
    {
        foreach (['', '30,30', '60,30', 'a', '0', '0m', '13m', '30x0', '30x13', '0x3'] as $text) {
            try {
                Bucketing::parse($text);
                self::fail($text.' was accepted');
            } catch (Refused $e) {
                self::assertSame('buckets', $e->problems[0]->field);
            }
        }
    }

    public function testCreditsStandApartOrAreNetted(): void
    {
        $sums = [
            new AgingSum(1, '2026-06-20', AgingSum::ITEM, 100),
            new AgingSum(1, '2026-05-01', AgingSum::ITEM, 200),
            new AgingSum(1, '2026-05-01', AgingSum::CREDIT, -50),
            new AgingSum(1, '2026-01-01', AgingSum::PREPAYMENT, -30),
            new AgingSum(2, '2026-01-01', AgingSum::ITEM, 7),
        ];
        $own = Ager::age($sums, Day::of('2026-06-15'), Bucketing::parse('30,60,90'));
        self::assertSame(
            [100, [0, 200, 0, 0], -50, -30, 220],
            [$own[1]->notDue, $own[1]->buckets, $own[1]->credits, $own[1]->prepayments, $own[1]->total()],
        );
        $net = Ager::age($sums, Day::of('2026-06-15'), Bucketing::parse('30,60,90'), Credits::Netted);
        self::assertSame([[0, 150, 0, 0], 0, 220], [$net[1]->buckets, $net[1]->credits, $net[1]->total()]);
        self::assertSame(7, $net[2]->total());
    }

    public function testExplanationsAddUpUnderTheFirstReasonThatFits(): void
    {
        $tie = TieOut::of(11803425, 11838675, [
            new Movement('JE-1', '2026-06-09', -41250, 0, bypass: true),
            new Movement('CI-2', '2026-06-12', 6060, 60),
            new Movement('CI-3', '2026-06-12', 0, 0),
        ]);
        self::assertSame(-35250, $tie->difference());
        self::assertSame($tie->difference(), array_sum(array_map(static fn ($e): int => $e->amount, $tie->explainedBy)));
        self::assertSame(
            ['bypass entry', 'item’s base amount differs from its entry'],
            array_map(static fn ($e): string => $e->why, $tie->explainedBy),
        );
        self::assertSame('2026-06-09', $tie->breakDay);
        self::assertSame(['2026-06-09' => -41250, '2026-06-12' => -35250], $tie->byDay);
    }

    public function testBreakDayIsTheStartOfTheLastUnbrokenStretch(): void
    {
        self::assertNull(TieOut::breakDay([], 0));
        self::assertNull(TieOut::breakDay(['2026-06-01' => 5, '2026-06-03' => 0], 0));
        self::assertSame(
            '2026-06-05',
            TieOut::breakDay(['2026-06-01' => 5, '2026-06-03' => 0, '2026-06-05' => 7, '2026-06-06' => 8], 0),
        );
        self::assertNull(TieOut::breakDay(['2026-06-01' => 5], 5));
        self::assertSame('2026-06-02', TieOut::breakDay(['2026-06-01' => 5, '2026-06-02' => 6], 5));
    }

    /** 1,200.00 for 45 days at 18 % is 26.63; with 700.00 paid on day 20 it is 18.00. */
    public function testFinanceCharges(): void
    {
        $due = Day::of('2026-01-31');
        $through = $due->plusDays(45);
        self::assertSame(2663, FinanceCharge::on(['2026-01-01' => 120000], $due, $through, '18'));
        self::assertSame(
            1800,
            FinanceCharge::on(['2026-01-01' => 120000, $due->plusDays(20)->iso() => 50000], $due, $through, '18'),
        );
        self::assertSame(0, FinanceCharge::on(['2026-01-01' => 120000], $due, $due->plusDays(5), '18', graceDays: 5));
        self::assertSame(
            2663 - 1184,
            FinanceCharge::on(['2026-01-01' => 120000], $due, $through, '18', chargedThrough: $due->plusDays(20)),
        );
    }
}
