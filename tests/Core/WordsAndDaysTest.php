<?php

declare(strict_types=1);

namespace Nelbix\Tests\Core;

use Nelbix\Core\Calendar\DateInput;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Charges\FinanceCharge;
use Nelbix\Core\Formats\AmountInWords;
use Nelbix\Core\Money\Money;
use Nelbix\Core\Refused;
use Nelbix\Core\Tax\TaxCalculator;
use Nelbix\Core\Tax\TaxCode;
use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\TestCase;

/** Oracles that were written apart from the core: an English speller, PHP's own calendar, tax by hand. */
final class WordsAndDaysTest extends TestCase
{
    private const ONES = [
        'zero',
        'one',
        'two',
        'three',
        'four',
        'five',
        'six',
        'seven',
        'eight',
        'nine',
        'ten',
        'eleven',
        'twelve',
        'thirteen',
        'fourteen',
        'fifteen',
        'sixteen',
        'seventeen',
        'eighteen',
        'nineteen',
    ];
    private const TENS = [2 => 'twenty', 'thirty', 'forty', 'fifty', 'sixty', 'seventy', 'eighty', 'ninety'];

    private static function spell(int $n): string
    {
        return match (true) {
            $n < 20 => self::ONES[$n],
            $n < 100 => self::TENS[intdiv($n, 10)].(0 === $n % 10 ? '' : '-'.self::ONES[$n % 10]),
            $n < 1000 => self::ONES[intdiv($n, 100)].' hundred'.(0 === $n % 100 ? '' : ' '.self::spell($n % 100)),
            $n < 1_000_000 => self::spell(intdiv($n, 1000)).
                ' thousand'.
                (0 === $n % 1000 ? '' : ' '.self::spell($n % 1000)),
            default => self::spell(intdiv($n, 1_000_000)).
                ' million'.
                (0 === $n % 1_000_000 ? '' : ' '.self::spell($n % 1_000_000)),
        };
    }

    public function testAmountsInWordsOverARange(): void
    {
        mt_srand(41);
        $amounts = [...range(0, 2100), ...array_map(static fn (): int => mt_rand(2100, 999_999_999), range(1, 1500))];
        foreach ($amounts as $whole) {
            $cents = $whole % 100;
            self::assertSame(
                ucfirst(self::spell($whole)).\sprintf(' and %02d/100', $cents),
                AmountInWords::of(Money::of($whole * 100 + $cents, 'USD')),
            );
        }
    }

    public function testNoCheckIsWrittenForLessThanZero(): void
    {
        $this->expectException(\LogicException::class);
        AmountInWords::of(Money::of(-1, 'USD'));
    }

    /** Against PHP's own calendar, ISO 8601. */
    public function testDaysAgreeWithTheCalendar(): void
    {
        mt_srand(42);
        for ($n = 0; $n < 800; ++$n) {
            $day = Day::of('1950-01-01')->plusDays(mt_rand(0, 80000));
            $step = mt_rand(-4000, 4000);
            $php = new \DateTimeImmutable($day->iso().' UTC');
            self::assertSame($php->modify(\sprintf('%+d days', $step))->format('Y-m-d'), $day->plusDays($step)->iso());
            self::assertSame($step, $day->daysUntil($day->plusDays($step)));
            self::assertSame($php->modify('last day of this month')->format('Y-m-d'), $day->endOfMonth()->iso());
            self::assertSame($php->format('j M Y'), $day->long());
            self::assertSame($day, Day::of($day->iso()), 'equal days are one object');
        }
    }

    /** @return iterable<string, array{string, int, string}> from, months, to; the day that a month lacks becomes its last */
    public static function months(): iterable
    {
        yield 'end of January' => ['2026-01-31', 1, '2026-02-28'];
        yield 'in a leap year' => ['2028-01-31', 1, '2028-02-29'];
        yield 'over the year' => ['2026-11-30', 3, '2027-02-28'];
        yield 'back over the year' => ['2026-02-15', -2, '2025-12-15'];
        yield 'a century that is no leap year' => ['2099-12-31', 2, '2100-02-28'];
        yield 'twelve months from a leap day' => ['2028-02-29', 12, '2029-02-28'];
        yield 'none' => ['2026-05-31', 0, '2026-05-31'];
    }

    #[DataProvider('months')]
    public function testMonths(string $from, int $months, string $to): void
    {
        self::assertSame($to, Day::of($from)->plusMonths($months)->iso());
    }

    /** What is shown can be typed back, in either order of day and month. */
    public function testEveryDayReadsBack(): void
    {
        foreach ([true, false] as $monthFirst) {
            $input = new DateInput(Day::of('2026-06-15'), $monthFirst);
            for ($n = -180; $n <= 180; ++$n) {
                $day = Day::of('2026-06-15')->plusDays($n);
                self::assertSame($day, $input->read($day->long()));
                self::assertSame($day, $input->read($day->iso()));
                self::assertSame($day, $input->read(\sprintf('%+d', $n)));
                $pair = $monthFirst ? [$day->month, $day->day] : [$day->day, $day->month];
                self::assertSame($day, $input->read(vsprintf('%d/%d', $pair)), 'the nearest year is meant');
                self::assertSame($day, $input->read(vsprintf('%02d%02d', $pair)));
            }
        }
    }

    public function testThereAreNoOtherDays(): void
    {
        foreach (
            [
                '2026-02-29',
                '2026-00-10',
                '2026-13-01',
                '2026-04-31',
                '1899-12-31',
                '2200-01-01',
                '26-01-01',
                "2026-01-01\n",
            ] as $iso
        ) {
            try {
                Day::of($iso);
                self::fail($iso);
            } catch (Refused $e) {
                self::assertSame('date', $e->problems[0]->field);
            }
        }
    }

    /**
     * Lines (rate, net), tax by rate, total; worked by hand as EN 16931 BR-CO-17 has it.
     *
     * @return iterable<string, array{list<array{string, int}>, array<int|string, int>, int}>
     */
    public static function taxes(): iterable
    {
        yield 'one rate' => [[['19', 10000]], ['19' => 1900], 11900];
        yield 'rounded on the sum, not on the lines' => [[['19', 33], ['19', 33], ['19', 33]], ['19' => 19], 118];
        yield 'half a cent goes up' => [[['5', 10]], ['5' => 1], 11];
        yield 'a credit rounds away from zero too' => [[['5', -10]], ['5' => -1], -11];
        yield 'two rates and a zero rate' => [
            [['25', 199900], ['12', 4550], ['0', 1000]],
            ['25' => 49975, '12' => 546, '0' => 0],
            255971,
        ];
        yield 'a trade discount as a line of its rate' => [
            [['20', 100000], ['20', -15000], ['10', 20000]],
            ['20' => 17000, '10' => 2000],
            124000,
        ];
        yield 'a fractional rate' => [[['8.875', 12345]], ['8.875' => 1096], 13441];
    }

    /**
     * @param list<array{string, int}> $lines
     * @param array<string, int> $expected
     */
    #[DataProvider('taxes')]
    public function testTaxByHand(array $lines, array $expected, int $total): void
    {
        $result = TaxCalculator::compute(
            array_map(
                static fn (array $l): array => [
                    'amount' => $l[1],
                    'code' => new TaxCode('R'.$l[0], \Brick\Math\BigDecimal::of($l[0])),
                ],
                $lines,
            ),
        );
        foreach ($expected as $rate => $tax) {
            self::assertSame($tax, $result->taxes['R'.$rate]->tax);
        }
        self::assertSame($total, $result->total());
    }

    /** Source: rules.md, Finance charges; what was open is worked by hand. */
    public function testWhatWasOpenFromDayToDay(): void
    {
        $moves = [
            ['2026-05-11', 400, true],
            ['2026-05-11', 100, false],
            ['2026-05-20', -400, true],
            ['2026-05-25', 900, false],
        ];
        $posted = Day::of('2026-05-01');
        self::assertSame(
            ['2026-05-01' => 1000, '2026-05-11' => 900, '2026-05-25' => 0],
            FinanceCharge::openFrom($posted, 1000, $moves, false),
            'money that bounced never came',
        );
        self::assertSame(
            ['2026-05-01' => 1000, '2026-05-11' => 500, '2026-05-20' => 900, '2026-05-25' => 0],
            FinanceCharge::openFrom($posted, 1000, $moves, true),
            'it lowered what was open until it bounced',
        );
    }

    /** Interest over spans adds up to the interest over the whole, to the cent that rounding leaves. */
    public function testChargesInTwoRunsAreTheChargeInOne(): void
    {
        mt_srand(43);
        $due = Day::of('2026-01-31');
        for ($n = 0; $n < 100; ++$n) {
            $open = ['2026-01-01' => mt_rand(1000, 9_000_000)];
            $middle = $due->plusDays(mt_rand(1, 40));
            $end = $middle->plusDays(mt_rand(1, 40));
            $whole = FinanceCharge::on($open, $due, $end, '18');
            $parts =
                FinanceCharge::on($open, $due, $middle, '18') + FinanceCharge::on($open, $due, $end, '18', 0, $middle);
            self::assertLessThanOrEqual(1, abs($whole - $parts));
        }
        self::assertSame(0, FinanceCharge::on(['2026-01-01' => 100000], $due, $due, '18'));
    }
}
