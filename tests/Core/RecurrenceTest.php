<?php

declare(strict_types=1);

namespace Nelbix\Tests\Core;

use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Calendar\Recurrence;
use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\TestCase;

/** Days that come again. Source: common practice; dates counted on a calendar. */
final class RecurrenceTest extends TestCase
{
    /** @return iterable<string, array{Recurrence, int, list<string>}> */
    public static function cases(): iterable
    {
        $day = Day::of(...);
        yield 'monthly on a day that months lack' => [
            new Recurrence($day('2027-12-31'), 'month'),
            4,
            ['2027-12-31', '2028-01-31', '2028-02-29', '2028-03-31'],
        ];
        yield 'monthly on an ordinary day' => [
            new Recurrence($day('2026-11-15'), 'month'),
            3,
            ['2026-11-15', '2026-12-15', '2027-01-15'],
        ];
        yield 'end of month' => [
            new Recurrence($day('2026-01-10'), 'month_end'),
            3,
            ['2026-01-31', '2026-02-28', '2026-03-31'],
        ];
        yield 'every three weeks over the end of the year' => [
            new Recurrence($day('2026-12-14'), 'weeks', 3),
            3,
            ['2026-12-14', '2027-01-04', '2027-01-25'],
        ];
        yield 'until a day' => [
            new Recurrence($day('2026-01-31'), 'month', 1, $day('2026-03-30')),
            9,
            ['2026-01-31', '2026-02-28'],
        ];
        yield 'so many times' => [
            new Recurrence($day('2026-01-31'), 'weeks', 1, null, 2),
            9,
            ['2026-01-31', '2026-02-07'],
        ];
    }

    /** @param list<string> $expected */
    #[DataProvider('cases')]
    public function testDays(Recurrence $recurrence, int $count, array $expected): void
    {
        self::assertSame($expected, array_map(static fn (Day $d): string => $d->iso(), $recurrence->next(0, $count)));
        self::assertSame(
            \array_slice($expected, 1),
            array_map(static fn (Day $d): string => $d->iso(), $recurrence->next(1, $count - 1)),
        );
    }

    /** Property: days only go forward, stay within until and count, and a month never comes twice or is left out. */
    public function testDaysGoForward(): void
    {
        mt_srand(20260615);
        for ($round = 0; $round < 300; ++$round) {
            $first = Day::of('2024-01-01')->plusDays(mt_rand(0, 1500));
            $every = ['month', 'month_end', 'weeks'][mt_rand(0, 2)];
            $until = mt_rand(0, 1) ? $first->plusDays(mt_rand(31, 900)) : null;
            $most = mt_rand(0, 1) ? mt_rand(1, 20) : null;
            $days = (new Recurrence($first, $every, mt_rand(1, 6), $until, $most))->next(0, 40);
            self::assertLessThanOrEqual($most ?? 40, \count($days));
            foreach ($days as $k => $day) {
                self::assertFalse(null !== $until && $day->isAfter($until));
                if ($k > 0) {
                    self::assertTrue($day->isAfter($days[$k - 1]));
                    if ('weeks' !== $every) {
                        $before = $days[$k - 1];
                        self::assertSame(1, 12 * ($day->year - $before->year) + $day->month - $before->month);
                    }
                }
            }
        }
    }

    /** @return iterable<string, array{callable(): Recurrence, string}> */
    public static function refusals(): iterable
    {
        $day = Day::of('2026-06-15');
        yield 'how often' => [static fn (): Recurrence => new Recurrence($day, 'daily'), 'every'];
        yield 'no weeks' => [static fn (): Recurrence => new Recurrence($day, 'weeks', 0), 'weeks'];
        yield 'too many weeks' => [static fn (): Recurrence => new Recurrence($day, 'weeks', 53), 'weeks'];
        yield 'ends before it begins' => [
            static fn (): Recurrence => new Recurrence($day, 'month', 1, $day->plusDays(-1)),
            'until_on',
        ];
        yield 'never' => [static fn (): Recurrence => new Recurrence($day, 'month', 1, null, 0), 'most'];
    }

    /** @param callable(): Recurrence $make */
    #[DataProvider('refusals')]
    public function testWhatCannotBeIsRefused(callable $make, string $field): void
    {
        try {
            $make();
            self::fail('it had to be refused');
        } catch (\Nelbix\Core\Refused $e) {
            self::assertSame($field, $e->problems[0]->field);
        }
    }
}
