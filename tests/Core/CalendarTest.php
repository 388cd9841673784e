<?php

declare(strict_types=1);

namespace Nelbix\Tests\Core;

use Nelbix\Core\Calendar\DateInput;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Refused;
use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\TestCase;

final class CalendarTest extends TestCase
{
    /** @return iterable<string, array{string, string}> books' day 2026-06-15; source: interface.md, Dates */
    public static function typed(): iterable
    {
        yield 'books’ day' => ['.', '2026-06-15'];
        yield 'days on' => ['+10', '2026-06-25'];
        yield 'days back' => ['-3', '2026-06-12'];
        yield 'nearest 12th' => ['12', '2026-06-12'];
        yield 'nearest 1st' => ['1', '2026-06-01'];
        yield 'nearest 31st' => ['31', '2026-05-31'];
        yield 'month/day' => ['3/12', '2026-03-12'];
        yield 'four digits' => ['0312', '2026-03-12'];
        yield 'nearest year' => ['12/20', '2025-12-20'];
        yield 'with year' => ['3/12/2027', '2027-03-12'];
        yield 'with short year' => ['3/12/27', '2027-03-12'];
        yield 'end of month' => ['e', '2026-06-30'];
        yield 'end of last month' => ['e-1', '2026-05-31'];
        yield 'end of February' => ['e-4', '2026-02-28'];
        yield 'ISO' => ['2026-02-28', '2026-02-28'];
        yield 'as shown' => ['15 Jun 2026', '2026-06-15'];
        yield 'without year' => ['3 Jan', '2026-01-03'];
        // DIN 5008: points stand between day and month in that order
        yield 'with points' => ['12.6.2026', '2026-06-12'];
        yield 'with points, short' => ['12.6.', '2026-06-12'];
        yield 'points that only one order can have' => ['6.15.2026', '2026-06-15'];
        // as people write them, common practice
        yield 'month in words first' => ['June 12', '2026-06-12'];
        yield 'month in words, year after a comma' => ['June 12, 2027', '2027-06-12'];
        yield 'day first' => ['12 June', '2026-06-12'];
        yield 'in one word' => ['12jun', '2026-06-12'];
        yield 'with dashes' => ['12-Jun-26', '2026-06-12'];
        yield 'an ordinal' => ['June 1st', '2026-06-01'];
        yield 'four letters' => ['4 sept', '2026-09-04'];
        yield 'a slash that only one order can have' => ['15/6', '2026-06-15'];
        yield 'dashes of numbers' => ['3-12-2027', '2027-03-12'];
    }

    #[DataProvider('typed')]
    public function testUnderstandsShortDates(string $typed, string $iso): void
    {
        self::assertSame($iso, (new DateInput(Day::of('2026-06-15')))->read($typed)->iso());
    }

    public function testOrderAndAnchor(): void
    {
        $dayFirst = new DateInput(Day::of('2026-06-15'), false);
        self::assertSame('2026-12-03', $dayFirst->read('3/12')->iso());
        self::assertSame('2026-06-12', $dayFirst->read('12.6.2026')->iso(), 'points mean the same in either order');
        self::assertSame('2026-06-15', $dayFirst->read('6/15')->iso(), 'only one order can have it');
        self::assertSame('2026-03-11', $dayFirst->read('+10', 'due_date', Day::of('2026-03-01'))->iso());
    }

    /** @return iterable<array{string}> */
    public static function noDates(): iterable
    {
        foreach (
            [
                '',
                'x',
                '32',
                '2/30',
                '2026-02-30',
                '13/13',
                '9999-01-01',
                '15 Foo 2026',
                'juno 12',
                '32.1.',
                '31.2.2026',
                '12 ma',
                '<b>',
                '+99999',
            ] as $text
        ) {
            yield [$text];
        }
    }

    #[DataProvider('noDates')]
    public function testRefusesAndNamesTheField(string $typed): void
    {
        try {
            (new DateInput(Day::of('2026-06-15')))->read($typed, 'posting_date');
            self::fail('accepted');
        } catch (Refused $e) {
            self::assertSame('posting_date', $e->problems[0]->field);
        }
    }

    public function testMonthArithmetic(): void
    {
        self::assertSame('2028-02-29', Day::inMonth(2028, 2, 31)->iso());
        self::assertSame('2027-01-31', Day::of('2026-12-31')->plusMonths(1)->iso());
        self::assertSame(
            '2026-02-28',
            Day::of('2026-03-31')
                ->plusMonths(-1)
                ->iso(),
        );
        self::assertSame(365, Day::of('2025-06-15')->daysUntil(Day::of('2026-06-15')));
        self::assertSame(-1, Day::of('2026-03-30')->daysUntil(Day::of('2026-03-29')));
    }

    /** Every day of the calendar against the language's own, which knows nothing of our arithmetic. */
    public function testDaysAreCountedAsTheCalendarDoes(): void
    {
        $php = new \DateTimeImmutable('1900-01-01', new \DateTimeZone('UTC'));
        $day = Day::of('1900-01-01');
        for ($n = 0; $n < 109_573; ++$n) {
            if ($day->iso() !== $php->format('Y-m-d') || $day->number * 86_400 !== $php->getTimestamp()) {
                self::fail($php->format('Y-m-d').' is '.$day->iso().', number '.$day->number);
            }
            $day = $n < 109_572 ? $day->plusDays(1) : $day;
            $php = $php->modify('+1 day');
        }
        self::assertSame('2199-12-31', $day->iso());
        self::assertSame(-109_572, $day->daysUntil(Day::of('1900-01-01')));
        $this->expectException(Refused::class);
        $day->plusDays(1);
    }
}
