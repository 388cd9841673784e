<?php

declare(strict_types=1);

namespace Nelbix\Tests\Core;

use Brick\Math\BigDecimal;
use Eris\Generators;
use Eris\TestTrait;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Refused;
use Nelbix\Core\Terms\DatedDiscount;
use Nelbix\Core\Terms\EarlyDiscount;
use Nelbix\Core\Terms\PaymentTerm;
use Nelbix\Core\Terms\ScheduledPart;
use Nelbix\Core\Terms\TermDates;
use Nelbix\Core\Terms\TermInWords;
use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\TestCase;

final class TermsTest extends TestCase
{
    use TestTrait;

    /** @return iterable<string, array{array<string, string>, string, string, string}> source: the table in rules.md, Payment terms */
    public static function schedules(): iterable
    {
        $anyTo31 = ['windows' => '1-31:+0m31', 'net' => '10'];
        yield '2/10 n/30' => [['net' => '30', 'discounts' => '2@10'], '2026-04-12', '', '2 % 2026-04-22; 2026-05-12'];
        yield '3/10 2/20 n/45' => [
            ['net' => '45', 'discounts' => '3@10 2@20'],
            '2026-01-20',
            '',
            '3 % 2026-01-30, 2 % 2026-02-09; 2026-03-06',
        ];
        yield 'any day to day 31' => [$anyTo31, '2026-02-14', '', '2026-03-10'];
        yield 'the same in a leap year' => [$anyTo31, '2028-02-14', '', '2028-03-10'];
        yield 'posting date, day 1 of the next month' => [
            ['runs_from' => 'posting', 'windows' => '1-31:+1m1', 'net' => '0'],
            '2026-06-28',
            '2026-07-03',
            '2026-08-01',
        ];
        yield 'two windows, first' => [
            ['windows' => '1-15:+1m10 16-31:+2m10', 'net' => '0'],
            '2026-05-15',
            '',
            '2026-06-10',
        ];
        yield 'two windows, second' => [
            ['windows' => '1-15:+1m10 16-31:+2m10', 'net' => '0'],
            '2026-05-16',
            '',
            '2026-07-10',
        ];
        yield 'day of month steps' => [
            ['discounts' => '2@+1m10', 'net' => '+1m31'],
            '2026-01-30',
            '',
            '2 % 2026-02-10; 2026-02-28',
        ];
        yield 'same day next month' => [['net' => '+1m'], '2026-01-31', '', '2026-02-28'];
        yield 'window moving backwards' => [['windows' => '1-31:+0m1', 'net' => '30'], '2026-05-20', '', '2026-05-31'];
    }

    /** @param array<string, string> $spec */
    #[DataProvider('schedules')]
    public function testSchedule(array $spec, string $document, string $posting, string $expected): void
    {
        $term = PaymentTerm::fromSpec($spec);
        $parts = $term->schedule(
            new TermDates(Day::of($document), Day::of('' === $posting ? $document : $posting)),
            100000,
            100000,
        );
        self::assertCount(1, $parts);
        $steps = implode(
            ', ',
            array_map(static fn (DatedDiscount $d): string => $d->percent.' % '.$d->through, $parts[0]->discounts),
        );
        self::assertSame($expected, ('' === $steps ? '' : $steps.'; ').$parts[0]->due);
        self::assertEquals($term, PaymentTerm::fromSpec($term->toSpec()), 'the text form reads back');
    }

    /** Source: rules.md, the last row of the table. */
    public function testInstalments(): void
    {
        $parts = PaymentTerm::fromSpec(['instalments' => '30@30 30@60 40@90'])->schedule(
            new TermDates(Day::of('2026-03-31'), Day::of('2026-03-31')),
            100001,
            100001,
        );
        self::assertSame(
            ['2026-04-30 30000', '2026-05-30 30000', '2026-06-29 40001'],
            array_map(static fn (ScheduledPart $p): string => $p->due.' '.$p->amount, $parts),
        );
    }

    public function testTypedDatesReplace(): void
    {
        $term = PaymentTerm::fromSpec(['net' => '30', 'discounts' => '2@10']);
        [$part] = $term->schedule(
            new TermDates(Day::of('2026-04-12'), Day::of('2026-04-12'), start: Day::of('2026-05-01')),
            100,
            100,
        );
        self::assertSame(['2026-05-31', '2026-05-11'], [$part->due->iso(), $part->discounts[0]->through->iso()]);
        [$part] = $term->schedule(
            new TermDates(Day::of('2026-04-12'), Day::of('2026-04-12'), due: Day::of('2026-07-01')),
            100,
            100,
        );
        self::assertSame(['2026-07-01', '2026-04-22'], [$part->due->iso(), $part->discounts[0]->through->iso()]);
    }

    /** @return iterable<array{array<string, string>, string}> */
    public static function badSpecs(): iterable
    {
        yield [['net' => 'soon'], 'net'];
        yield [['net' => '+1m32'], 'net'];
        yield [['windows' => '20-10:+1m'], 'windows'];
        yield [['discounts' => '2 in 10'], 'discounts'];
        yield [['discounts' => '100@10'], 'discounts'];
        yield [['instalments' => '50@30 40@60'], 'instalments'];
        yield [['runs_from' => 'birth'], 'runs_from'];
        yield [['grace_days' => '-1'], 'grace_days'];
    }

    /** @param array<string, string> $spec */
    #[DataProvider('badSpecs')]
    public function testRefusesBadTerms(array $spec, string $field): void
    {
        try {
            PaymentTerm::fromSpec($spec);
            self::fail('accepted');
        } catch (Refused $e) {
            self::assertSame($field, $e->problems[0]->field);
        }
    }

    public function testTermsThatAskForADateSaySo(): void
    {
        $this->expectException(Refused::class);
        PaymentTerm::fromSpec(['runs_from' => 'asked', 'net' => '30'])->schedule(
            new TermDates(Day::of('2026-04-12'), Day::of('2026-04-12')),
            1,
            1,
        );
    }

    private static function discount(int $total, int $base, string $steps, int $grace = 0): EarlyDiscount
    {
        $list = [];
        foreach (explode(' ', $steps) as $step) {
            [$percent, $through] = explode('@', $step);
            $list[] = new DatedDiscount(Day::of($through), BigDecimal::of($percent), 0);
        }

        return new EarlyDiscount($total, $base, $list, $grace);
    }

    /** Source: rules.md, Payment terms; 490.00 of 1,000.00 within 2/10 is a textbook example. */
    public function testPartPaymentUnderDiscount(): void
    {
        $d = self::discount(100000, 100000, '2@2026-04-22');
        $in = Day::of('2026-04-22');
        self::assertSame(['settled' => 50000, 'discount' => 1000], $d->onPayment(100000, 49000, $in));

        $two = self::discount(100000, 100000, '3@2026-04-10 2@2026-04-20');
        self::assertSame(
            ['settled' => 50000, 'discount' => 1500],
            $two->onPayment(100000, 48500, Day::of('2026-04-10')),
        );
        self::assertSame(
            ['settled' => 50000, 'discount' => 1000],
            $two->onPayment(50000, 49000, Day::of('2026-04-15')),
        );

        self::assertSame(
            ['settled' => 10025, 'discount' => 201],
            self::discount(10025, 10025, '2@2026-04-22')->onPayment(10025, 9824, $in),
        );
        self::assertSame(
            ['settled' => 60000, 'discount' => 1000],
            self::discount(120000, 100000, '2@2026-04-22')->onPayment(120000, 59000, $in),
        );
    }

    public function testGraceAndLateness(): void
    {
        $d = self::discount(100000, 100000, '3@2026-04-10 2@2026-04-20', 3);
        self::assertSame('3', (string) $d->stepOn(Day::of('2026-04-13'))?->percent);
        self::assertSame('2', (string) $d->stepOn(Day::of('2026-04-14'))?->percent);
        self::assertNull($d->stepOn(Day::of('2026-04-24')));
        self::assertSame(['settled' => 98000, 'discount' => 0], $d->onPayment(100000, 98000, Day::of('2026-04-24')));
    }

    /** A credit note that names the invoice lowers base and total: 1,000.00 less 200.00 within 2 % pays 784.00. Source: rules.md. */
    public function testCreditLowersBase(): void
    {
        self::assertSame(1600, self::discount(80000, 80000, '2@2026-04-22')->onFull(80000, Day::of('2026-04-22')));
    }

    /** 2/10 n/30 yields 37.24 % a year (textbook). */
    public function testYearlyYield(): void
    {
        self::assertSame('37.24', (string) EarlyDiscount::yearlyYield(BigDecimal::of('2'), 20));
        self::assertNull(EarlyDiscount::yearlyYield(BigDecimal::of('2'), 0));
    }

    public function testPartPaymentNeverSettlesMoreThanIsOpen(): void
    {
        $this->limitTo(300)
            ->forAll(Generators::choose(1, 5_000_000), Generators::choose(0, 6_000_000), Generators::choose(1, 1500))
            ->then(static function (int $open, int $payment, int $permyriad): void {
                $d = new EarlyDiscount($open, $open, [
                    new DatedDiscount(Day::of('2026-04-22'), BigDecimal::ofUnscaledValue($permyriad, 2), 0),
                ]);
                ['settled' => $settled, 'discount' => $discount] = $d->onPayment(
                    $open,
                    $payment,
                    Day::of('2026-04-01'),
                );
                self::assertGreaterThanOrEqual(0, $discount);
                self::assertLessThanOrEqual($open, $settled);
                self::assertLessThanOrEqual($payment + $discount, $settled);
                self::assertLessThanOrEqual($d->onFull($open, Day::of('2026-04-01')), $discount);
            });
    }

    /** @return iterable<array{array<string, string>, string}> */
    public static function words(): iterable
    {
        yield [['net' => '30', 'discounts' => '2@10'], '2 % within 10 days, net 30 days from the document date'];
        yield [
            ['net' => '45', 'discounts' => '3@10 2@20', 'grace_days' => '1'],
            '3 % within 10 days, 2 % within 20 days, net 45 days from the document date; a discount still holds 1 day late',
        ];
        yield [['net' => '0'], 'due at once'];
        yield [['net' => '+1m10'], 'due on day 10 of the next month, counted from the document date'];
        yield [
            ['net' => '+1m31', 'discounts' => '2@+1m10', 'runs_from' => 'posting'],
            '2 % until day 10 of the next month, due on the last day of the next month, counted from the posting date',
        ];
        yield [
            ['net' => '0', 'windows' => '1-15:+1m10 16-31:+2m10'],
            'due at once, counted from day 10 of the next month when the document date falls on day 1 to 15, day '.
            '10 of the month after next when the document date falls on day 16 to 31',
        ];
        yield [
            ['instalments' => '30@30 30@60 40@+3m', 'runs_from' => 'asked'],
            'in instalments: 30 % after 30 days, 30 % after 60 days, 40 % on the same day of the month +3 from a date that is agreed',
        ];
    }

    /** @param array<string, string> $spec */
    #[DataProvider('words')]
    public function testInWords(array $spec, string $words): void
    {
        self::assertSame($words, TermInWords::of(PaymentTerm::fromSpec($spec)));
    }

    /**
     * A credit note that names the invoice lowers its base and its total by its own. Source: rules.md, Payment terms.
     *
     * @return iterable<string, array{EarlyDiscount, int, int, int, int}> the invoice's, the credit's total and base, open, discount
     */
    public static function lowered(): iterable
    {
        $steps = [new DatedDiscount(Day::of('2026-06-10'), BigDecimal::of('2'), 0)];
        yield '1,000.00 less 200.00' => [new EarlyDiscount(100000, 100000, $steps), 20000, 20000, 80000, 1600];
        yield 'base net of tax, 9,989.98 + 20 % less 8,654.06 without tax' => [
            new EarlyDiscount(1198798, 998998, $steps),
            865406,
            865406,
            333392,
            2672,
        ];
        yield 'a credit of all of it leaves none' => [new EarlyDiscount(100000, 80000, $steps), 100000, 90000, 0, 0];
    }

    #[DataProvider('lowered')]
    public function testACreditLowersBaseAndTotal(
        EarlyDiscount $of,
        int $total,
        int $base,
        int $open,
        int $discount,
    ): void {
        self::assertSame($discount, $of->lowered($total, $base)->onFull($open, Day::of('2026-06-01')));
    }

    /** What a payment earns is what it may have, and a cent more is too much. Property; onPayment() is the rule itself. */
    public function testTheMostDiscountIsWhatAPaymentEarns(): void
    {
        mt_srand(11);
        $day = Day::of('2026-06-01');
        for ($n = 0; $n < 2000; ++$n) {
            $total = mt_rand(2, 500_000);
            $percent = BigDecimal::of(mt_rand(1, 5));
            $base = mt_rand(intdiv($total, 2), $total);
            $discount = new EarlyDiscount($total, $base, [new DatedDiscount($day, $percent, 0)]);
            $open = mt_rand(1, $total);
            $part = $discount->onPayment($open, mt_rand(0, $open), $day);
            self::assertLessThanOrEqual($discount->most($open, $part['settled'], $day), $part['discount']);
            $most = $discount->most($open, $part['settled'], $day);
            if ($part['settled'] < $open && $most < $discount->onFull($open, $day)) {
                $earned = $discount->onPayment($open, $part['settled'] - $most - 1, $day);
                self::assertLessThan($part['settled'], $earned['settled'], 'less money settles less');
            }
        }
        self::assertSame(0, $discount->most(100, 50, Day::of('2026-07-01')), 'after the last step there is none');
    }

    /** Six receipts of 1.00 on 1,000.00 at 2 %: two cents each and no more, not 113.87. Worked by hand: 1.00 / 0.98 is 1.02. */
    public function testSmallPaymentsEarnSmallDiscounts(): void
    {
        $day = Day::of('2026-06-01');
        $discount = new EarlyDiscount(100000, 100000, [new DatedDiscount($day, BigDecimal::of('2'), 0)]);
        self::assertSame(2, $discount->most(100000, 102, $day));
        self::assertSame(2000, $discount->most(100000, 100000, $day));
    }

    /**
     * Source: rules.md, Figures over a span: on the day after a step's date plus grace, what was then open times what that step gave more
     * than the next. 3/10 2/20 of 1,000.00 from 1 May.
     *
     * @return iterable<string, array{int, array<string, int>, list<array{string, int}>}> grace, open from a day on, day and amount lost
     */
    public static function lapses(): iterable
    {
        yield 'never paid: a percent, then the other two' => [
            0,
            ['2026-05-01' => 100000],
            [['2026-05-12', 1000], ['2026-05-22', 2000]],
        ];
        yield 'paid between them' => [0, ['2026-05-01' => 100000, '2026-05-20' => 0], [['2026-05-12', 1000]]];
        yield 'half of it in time' => [
            0,
            ['2026-05-01' => 100000, '2026-05-11' => 50000],
            [['2026-05-12', 500], ['2026-05-22', 1000]],
        ];
        yield 'with two days of grace' => [2, ['2026-05-01' => 100000], [['2026-05-14', 1000], ['2026-05-24', 2000]]];
        yield 'paid in time' => [0, ['2026-05-01' => 100000, '2026-05-11' => 0], []];
    }

    /**
     * @param array<string, int> $open
     * @param list<array{string, int}> $expected
     */
    #[DataProvider('lapses')]
    public function testEachStepLapsesOnItsDay(int $grace, array $open, array $expected): void
    {
        $steps = [
            new DatedDiscount(Day::of('2026-05-11'), BigDecimal::of(3), 3000),
            new DatedDiscount(Day::of('2026-05-21'), BigDecimal::of(2), 2000),
        ];
        $at = static function (Day $day) use ($open): int {
            $of = 0;
            foreach ($open as $from => $amount) {
                $of = $from < $day->iso() ? $amount : $of;
            }

            return $of;
        };
        $lapses = (new EarlyDiscount(100000, 100000, $steps, $grace))->lapses($at);
        self::assertSame($expected, array_map(static fn (array $l): array => [$l['day']->iso(), $l['amount']], $lapses));
    }
}
