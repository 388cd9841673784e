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
        yield 'monthly on a day that months lack' => [new Recurrence($day('2027-12-31'), 'month'), 4, ['2027-12-31', '2028-01-31', '2028-02-29', '2028-03-31']];
        yield 'monthly on an ordinary day' => [new Recurrence($day('2026-11-15'), 'month'), 3, ['2026-11-15', '2026-12-15', '2027-01-15']];
        yield 'end of month' => [new Recurrence($day('2026-01-10'), 'month_end'), 3, ['2026-01-31', '2026-02-28', '2026-03-31']];
        yield 'every three weeks over the end of the year' => [new Recurrence($day('2026-12-14'), 'weeks', 3), 3, ['2026-12-14', '2027-01-04', '2027-01-25']];
        yield 'until a day' => [new Recurrence($day('2026-01-31'), 'month', 1, $day('2026-03-30')), 9, ['2026-01-31', '2026-02-28']];
        yield 'so many times' => [new Recurrence($day('2026-01-31'), 'weeks', 1, null, 2), 9, ['2026-01-31', '2026-02-07']];
    }

    /** @param list<string> $expected */
    #[DataProvider('cases')]
    public function testDays(Recurrence $recurrence, int $count, array $expected): void
    {
        self::assertSame($expected, array_map(static fn (Day $d): string => $d->iso(), $recurrence->next(0, $count)));
        self::assertSame(\array_slice($expected, 1), array_map(static fn (Day $d): string => $d->iso(), $recurrence->next(1, $count - 1)));
    }
}
