<?php

declare(strict_types=1);

namespace Nelbix\Tests\Core;

use Nelbix\Core\Aging\Ager;
use Nelbix\Core\Aging\AgingSum;
use Nelbix\Core\Aging\Bucketing;
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

    public function testBadBuckets(): void
    {
        foreach (['', '30,30', '60,30', 'a', '0'] as $text) {
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
        $net = Ager::age($sums, Day::of('2026-06-15'), Bucketing::parse('30,60,90'), true);
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
