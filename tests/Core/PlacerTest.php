<?php

declare(strict_types=1);

namespace Nelbix\Tests\Core;

use Brick\Math\BigDecimal;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Ledger\DocumentKind;
use Nelbix\Core\Ledger\Side;
use Nelbix\Core\OpenItems\OpenItem;
use Nelbix\Core\Placement\DocumentName;
use Nelbix\Core\Placement\Idea;
use Nelbix\Core\Placement\Placer;
use Nelbix\Core\Placement\Why;
use Nelbix\Core\Terms\DatedDiscount;
use Nelbix\Core\Terms\EarlyDiscount;
use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\TestCase;

/** Where a receipt is proposed to go. Source: rules.md, Proposing where a receipt goes. */
final class PlacerTest extends TestCase
{
    private const ON = '2026-06-15';

    private static function item(int $id, int $open, string $percent = '', ?string $number = null): OpenItem
    {
        $discount =
            '' === $percent
                ? null
                : new EarlyDiscount($open, $open, [
                    new DatedDiscount(
                        Day::of('2026-06-20'),
                        BigDecimal::of($percent),
                        intdiv($open * (int) $percent, 100),
                    ),
                ]);

        return new OpenItem(
            $id,
            Side::Receivables,
            7,
            $open > 0 ? DocumentKind::Invoice : DocumentKind::CreditNote,
            $number ?? \sprintf('CI-26-%05d', 300 + $id),
            1200,
            'USD',
            $open,
            $open,
            $open,
            $open,
            Day::of('2026-05-01'),
            Day::of('2026-06-01')->plusDays($id),
            $discount,
        );
    }

    private static function ordered(int $id, int $open, string $order, string $percent = ''): OpenItem
    {
        return new OpenItem(...['order' => $order] + get_object_vars(self::item($id, $open, $percent)));
    }

    /** @return iterable<string, array{int, string, list<OpenItem>, array<int, array{int, int}>|null}> */
    public static function orders(): iterable
    {
        $of = [
            self::ordered(1, 40000, 'PO-7001'),
            self::ordered(2, 25000, 'po-7001'),
            self::ordered(3, 31000, 'PO-7002'),
        ];
        yield 'the only order that comes to it' => [65000, '', $of, [1 => [40000, 0], 2 => [25000, 0]]];
        yield 'an order less its credit' => [
            60000,
            '',
            [...$of, self::ordered(4, -5000, 'PO-7001')],
            [1 => [40000, 0], 2 => [25000, 0], 4 => [5000, 0]],
        ];
        yield 'an order less its discount' => [
            63700,
            '',
            [self::ordered(1, 40000, 'A-1', '2'), self::ordered(2, 25000, 'A-1', '2'), self::item(3, 31000)],
            [1 => [40000, 800], 2 => [25000, 500]],
        ];
        yield 'two orders of the same sum: neither' => [65000, '', [...$of, self::ordered(4, 65000, 'PO-7003')], null];
        yield 'the order that their text names, in part' => [
            50000,
            'order PO 7001',
            $of,
            [1 => [40000, 0], 2 => [10000, 0]],
        ];
        yield 'nothing of an order' => [12345, '', $of, null];
        yield 'items without an order are no order' => [65000, '', [self::item(1, 40000), self::item(2, 25000)], null];
    }

    /**
     * @param list<OpenItem> $items
     * @param array<int, array{int, int}>|null $expected
     */
    #[DataProvider('orders')]
    public function testAllOfOneOrder(int $amount, string $text, array $items, ?array $expected): void
    {
        $ideas = array_values(
            array_filter(
                Placer::ideas($amount, $text, $items, Day::of(self::ON)),
                static fn (Idea $i): bool => Why::Order === $i->why,
            ),
        );
        self::assertSame(null === $expected ? [] : [$expected], self::bare($ideas));
    }

    /**
     * @param list<Idea> $ideas
     *
     * @return list<array<int, array{int, int}>>
     */
    private static function bare(array $ideas): array
    {
        return array_map(
            static fn (Idea $i): array => array_map(
                static fn (array $p): array => [$p['gross'], $p['discount']],
                $i->placed,
            ),
            $ideas,
        );
    }

    /**
     * Source: rules.md, Proposing where a receipt goes: two that fit at any step end the proposing; what is guessed at last is only
     * guessed where nothing else was found.
     *
     * @return iterable<string, array{int, list<OpenItem>, int, list<int>, list<Why>}> what came, items, most charge, asked, reasons
     */
    public static function ties(): iterable
    {
        $lapsed = static fn (int $id, int $open): OpenItem => new OpenItem(
            ...[
                'discount' => new EarlyDiscount($open, $open, [
                    new DatedDiscount(Day::of('2026-06-10'), BigDecimal::of(2), intdiv($open * 2, 100)),
                ]),
            ] + get_object_vars(self::item($id, $open)),
        );
        $of = [self::item(1, 5000), self::item(2, 3000), self::item(3, 3000)];
        yield 'two are just that; a third with a charge is none' => [3000, $of, 2000, [], []];
        yield 'one with a charge' => [4500, [self::item(1, 5000)], 2000, [], [Why::Charge]];
        yield 'two with a charge' => [4500, [self::item(1, 5000), self::item(2, 5100)], 2000, [], []];
        yield 'one amount fits: no charge is guessed beside it' => [
            4500,
            [self::item(1, 4500), self::item(2, 5000)],
            2000,
            [],
            [Why::Amount],
        ];
        yield 'a lapsed discount comes before a charge' => [
            9800,
            [$lapsed(1, 10000), self::item(2, 9900)],
            500,
            [],
            [Why::Lapsed],
        ];
        yield 'two lapsed discounts end it' => [
            9800,
            [$lapsed(1, 10000), $lapsed(2, 10000), self::item(3, 9900)],
            500,
            [],
            [],
        ];
        yield 'a prepayment was asked for' => [7000, [self::item(1, 5000)], 0, [7000, 9000], [Why::Asked]];
        yield 'nothing is open, and a prepayment was asked for' => [7000, [], 0, [7000], [Why::Asked]];
        yield 'two were asked for' => [7000, [self::item(1, 7100)], 500, [7000, 7000], []];
        yield 'one amount fits, and a prepayment' => [
            5000,
            [self::item(1, 5000)],
            0,
            [5000],
            [Why::Amount, Why::Asked],
        ];
        yield 'another was asked for' => [7000, [self::item(1, 5000)], 0, [7001], []];
    }

    /**
     * @param list<OpenItem> $items
     * @param list<int> $asked
     * @param list<Why> $why
     */
    #[DataProvider('ties')]
    public function testTwoThatFitEndIt(int $came, array $items, int $charge, array $asked, array $why): void
    {
        $ideas = Placer::ideas($came, '', $items, Day::of(self::ON), $charge, [], $asked);
        self::assertSame($why, array_column($ideas, 'why'));
    }

    public function testWhatTheirListMarksComesFirst(): void
    {
        $items = [self::item(1, 40000, '2'), self::item(2, 25000), self::item(9, -5000)];
        $ideas = static fn (int $amount, array $marked): array => Placer::ideas(
            $amount,
            'CI-26-00302',
            $items,
            Day::of(self::ON),
            0,
            $marked,
        );
        $all = $ideas(0, [1 => 0, 9 => 0]);
        self::assertSame([Why::Marked], array_column($all, 'why'), 'an amount that is not typed follows');
        self::assertSame([[1 => [40000, 800], 9 => [5000, 0]]], self::bare($all));
        self::assertSame(
            [[1 => [10000, 200]]],
            self::bare($ideas(0, [1 => 9800])),
            'an amount is paid, with its share of the discount',
        );
        self::assertSame(
            [1 => [40000, 0], 2 => [5000, 0]],
            self::bare($ideas(45000, [1 => 0, 2 => 0]))[0],
            'the last in part; the first is reached in full and needs no discount',
        );
        self::assertSame([], $ideas(0, []));
        self::assertSame(Why::Text, $ideas(25000, [77 => 0])[0]->why, 'what is not open is not marked');
    }

    /** @return iterable<string, array{int, string, list<OpenItem>, list<array{Why, array<int, array{int, int}>}>}> */
    public static function cases(): iterable
    {
        $a = self::item(1, 40000);
        $b = self::item(2, 25000);
        $c = self::item(3, 31000);
        $credit = self::item(9, -5000);
        yield 'their text names it, though another amount fits' => [
            25000,
            'for CI-26-00301 thanks',
            [$a, $b],
            [[Why::Text, [1 => [25000, 0]]], [Why::Amount, [2 => [25000, 0]]]],
        ];
        yield 'text with two numbers, the rest unapplied' => [
            70000,
            'CI 26 301, ci26-302',
            [$a, $b, $c],
            [[Why::Text, [1 => [40000, 0], 2 => [25000, 0]]]],
        ];
        yield 'text names an invoice and a credit' => [
            35000,
            'CI-26-00301 less CI-26-00309',
            [$a, $credit],
            [[Why::Text, [1 => [40000, 0], 9 => [5000, 0]]]],
        ];
        yield 'text names a credit only' => [100, 'CI-26-00309', [$a, $credit], []];
        yield 'one amount' => [31000, '', [$a, $b, $c], [[Why::Amount, [3 => [31000, 0]]]]];
        yield 'one amount less its discount' => [
            39200,
            '',
            [self::item(1, 40000, '2'), $b],
            [[Why::Amount, [1 => [40000, 800]]]],
        ];
        yield 'one amount, the discount not used' => [
            40000,
            '',
            [self::item(1, 40000, '2'), $b],
            [[Why::Amount, [1 => [40000, 0]]]],
        ];
        yield 'two items of the same amount: neither' => [40000, '', [$a, self::item(4, 40000)], []];
        yield 'only one sum' => [65000, '', [$a, $b, $c], [[Why::Sum, [1 => [40000, 0], 2 => [25000, 0]]]]];
        yield 'a sum less a credit' => [
            60000,
            '',
            [$a, $b, self::item(3, 31500), $credit],
            [[Why::Sum, [1 => [40000, 0], 2 => [25000, 0], 9 => [5000, 0]]]],
        ];
        yield 'a sum less the discounts' => [
            63700,
            '',
            [self::item(1, 40000, '2'), self::item(2, 25000, '2'), $c],
            [[Why::Sum, [1 => [40000, 800], 2 => [25000, 500]]]],
        ];
        yield 'two sums: the proposing ends' => [
            65000,
            '',
            [$a, $b, self::item(3, 65000), self::item(4, 12000)],
            [[Why::Amount, [3 => [65000, 0]]]],
        ];
        yield 'the whole account' => [
            96000,
            '',
            [$a, $b, $c],
            [[Why::Sum, [1 => [40000, 0], 2 => [25000, 0], 3 => [31000, 0]]]],
        ];
        yield 'the whole account, more than a set holds' => [
            90000,
            '',
            array_map(static fn (int $k): OpenItem => self::item($k, 10000), range(1, 9)),
            [[Why::Account, array_fill(1, 9, [10000, 0])]],
        ];
        yield 'nothing fits' => [12345, 'thank you', [$a, $b], []];
        yield 'no money' => [0, 'CI-26-00301', [$a], []];
        yield 'text, too little money: its part of the discount' => [
            49000,
            'CI-26-00301',
            [self::item(1, 100000, '2')],
            [[Why::Text, [1 => [50000, 1000]]]],
        ];
    }

    /**
     * @param list<OpenItem> $items
     * @param list<array{Why, array<int, array{int, int}>}> $expected gross and discount by item
     */
    #[DataProvider('cases')]
    public function testIdeas(int $amount, string $text, array $items, array $expected): void
    {
        $ideas = Placer::ideas($amount, $text, $items, Day::of(self::ON));
        self::assertSame(
            $expected,
            array_map(
                static fn (Idea $i): array => [
                    $i->why,
                    array_map(static fn (array $p): array => [$p['gross'], $p['discount']], $i->placed),
                ],
                $ideas,
            ),
        );
        self::assertEquals(
            $ideas,
            Placer::ideas($amount, $text, array_reverse($items), Day::of(self::ON)),
            'the order of the rows must not matter',
        );
    }

    /** @return iterable<array{string, string, bool}> */
    public static function texts(): iterable
    {
        yield ['invoice CI-26-00388', 'CI-26-00388', true];
        yield ['INV ci2600388.', 'CI-26-00388', true];
        yield ['CI 26/388', 'CI-26-00388', true];
        yield ['26-00388', 'CI-26-00388', true];
        yield ['total 26,388.00 USD', 'CI-26-00388', false];
        yield ['CI-26-003881', 'CI-26-00388', false];
        yield ['XCI-26-00388', 'CI-26-00388', false];
        yield ['CI-26-00388/2', 'CI-26-00388/1', false];
        yield ['CI-26-00388/2', 'CI-26-00388/2', true];
        yield ['CI-26-00388', 'CI-26-00388/2', true];
        yield ['CI-26-00388/2', 'CI-26-00388', false];
        yield ['VI-26-00388', 'CI-26-00388', false];
        yield ['your 4711', '4711', true];
        yield ['14711', '4711', false];
        yield ['', 'CI-26-00388', false];
        yield ['anything', '', false];
    }

    #[DataProvider('texts')]
    public function testNames(string $text, string $number, bool $named): void
    {
        self::assertSame($named, DocumentName::isIn($text, $number));
    }

    public function testOldestFirstUsesUpTheMoney(): void
    {
        $idea = Placer::oldestFirst(
            50000,
            [self::item(3, 31000), self::item(1, 40000), self::item(2, 25000)],
            Day::of(self::ON),
        );
        self::assertSame(
            [1 => ['gross' => 40000, 'discount' => 0], 2 => ['gross' => 10000, 'discount' => 0]],
            $idea?->placed,
        );
        self::assertNull(Placer::oldestFirst(50000, [self::item(9, -100)], Day::of(self::ON)));
    }

    /** Beyond thirty items nobody can say that it is the only sum; the whole account still can be said. */
    public function testManyItemsAreNotSummed(): void
    {
        $items = array_map(static fn (int $k): OpenItem => self::item($k, 1000 + $k), range(1, 31));
        self::assertSame([], Placer::ideas(2003, '', $items, Day::of(self::ON)));
        self::assertSame(Why::Sum, Placer::ideas(2003, '', \array_slice($items, 0, 30), Day::of(self::ON))[0]->why);
        self::assertSame(
            Why::Account,
            Placer::ideas(
                array_sum(array_map(static fn (OpenItem $i): int => $i->open, $items)),
                '',
                $items,
                Day::of(self::ON),
            )[0]->why,
        );
    }

    /**
     * Property: what "only one sum" says is true, against trying every set; nothing takes more than is open, and no idea
     * places more than came.
     */
    public function testSumsAgainstTryingEverySet(): void
    {
        mt_srand(20260615);
        $said = 0;
        for ($round = 0; $round < 300; ++$round) {
            $items = [];
            for ($k = 1, $n = mt_rand(2, 8); $k <= $n; ++$k) {
                $items[] = self::item($k, mt_rand(0, 4) > 0 ? mt_rand(1, 40) * 100 : -mt_rand(1, 10) * 100);
            }
            $amount = mt_rand(1, 80) * 100;
            $sets = 0;
            for ($mask = 1; $mask < 1 << $n; ++$mask) {
                $sum = 0;
                foreach ($items as $k => $item) {
                    $sum += 0 !== (($mask >> $k) & 1) ? $item->open : 0;
                }
                $sets += $sum === $amount ? 1 : 0;
            }
            $ideas = Placer::ideas($amount, '', $items, Day::of(self::ON));
            $bySum = array_filter($ideas, static fn (Idea $i): bool => Why::Sum === $i->why || Why::Amount === $i->why);
            if (1 === $sets) {
                self::assertCount(1, $bySum);
                ++$said;
            } elseif (0 === $sets) {
                self::assertSame([], $ideas);
            } else {
                self::assertSame(
                    [],
                    array_filter($ideas, static fn (Idea $i): bool => Why::Sum === $i->why || Why::Account === $i->why),
                );
            }
            $open = array_column(array_map(static fn (OpenItem $i): array => [$i->id, $i->open], $items), 1, 0);
            foreach ([...$ideas, ...array_filter([Placer::oldestFirst($amount, $items, Day::of(self::ON))])] as $idea) {
                $net = 0;
                foreach ($idea->placed as $id => $p) {
                    self::assertLessThanOrEqual(abs($open[$id]), $p['gross']);
                    $net += ($open[$id] > 0 ? 1 : -1) * $p['gross'] - $p['discount'];
                }
                self::assertLessThanOrEqual($amount, $net);
            }
        }
        self::assertGreaterThan(20, $said);
    }

    /** Many equal amounts: of thirty invoices of 100.00 no set is the only one, and asking takes no time. */
    public function testManyEqualAmountsDoNotMultiply(): void
    {
        $items = array_map(static fn (int $n): OpenItem => self::item($n, 10000), range(1, 30));
        self::assertSame([], Placer::ideas(80000, '', $items, Day::of(self::ON)));
        self::assertSame(
            [],
            Placer::ideas(150000, '', $items, Day::of(self::ON)),
            'fifteen are more than a set may hold',
        );
        self::assertSame([Why::Account], array_column(Placer::ideas(300000, '', $items, Day::of(self::ON)), 'why'));
    }

    /** Exactly one set is proposed when there is exactly one, looked for by trying all of them. Property, with amounts that repeat. */
    public function testOnlyOneSumAgainstTryingAll(): void
    {
        mt_srand(5);
        for ($n = 0; $n < 300; ++$n) {
            $items = [];
            foreach (range(1, mt_rand(2, 10)) as $id) {
                $items[] = self::item($id, 100 * (mt_rand(1, 6) - (0 === mt_rand(0, 5) ? 7 : 0)));
            }
            $amount = 100 * mt_rand(1, 15);
            $sets = 0;
            for ($mask = 1; $mask < 2 ** \count($items); ++$mask) {
                $in = array_filter($items, static fn (int $k): bool => 0 !== (($mask >> $k) & 1), \ARRAY_FILTER_USE_KEY);
                $sum = array_sum(array_map(static fn (OpenItem $i): int => $i->open, $in));
                $sets += \count($in) <= Placer::MOST_IN_SET && $sum === $amount ? 1 : 0;
            }
            $ideas = Placer::ideas($amount, '', $items, Day::of(self::ON));
            $bySum = array_filter(
                $ideas,
                static fn (Idea $i): bool => \in_array($i->why, [Why::Sum, Why::Amount], true),
            );
            if (1 === $sets) {
                self::assertCount(1, $bySum);
            } else {
                self::assertSame(
                    [],
                    array_filter($bySum, static fn (Idea $i): bool => Why::Sum === $i->why),
                    "$sets sets",
                );
            }
        }
    }

    /** Short of just a lapsed discount, or of no more than banks keep: the money is placed, the rest is the clerk's to decide. */
    public function testShortOfALapsedDiscountOrOfABankCharge(): void
    {
        // 2 % of 400.00 until 20 June
        $items = [self::item(1, 40000, '2'), self::item(2, 25000)];
        $why = static fn (int $amount, string $on, int $charge = 0): array => array_map(
            static fn ($i): array => [$i->why, array_map(static fn (array $p): array => array_values($p), $i->placed)],
            Placer::ideas($amount, '', $items, Day::of($on), $charge),
        );
        self::assertSame([Why::Amount, [1 => [40000, 800]]], $why(39200, '2026-06-20')[0]);
        self::assertSame([[Why::Lapsed, [1 => [39200, 0]]]], $why(39200, '2026-06-21'));
        self::assertSame([[Why::Lapsed, [1 => [39200, 0]]]], $why(39200, '2026-07-04'), '14 days after');
        self::assertSame([], $why(39200, '2026-07-05'), 'long lapsed');
        self::assertSame([], $why(39201, '2026-06-21'), 'a cent off');
        self::assertSame([[Why::Charge, [2 => [23800, 0]]]], $why(23800, '2026-06-21', 1200));
        self::assertSame([], $why(23799, '2026-06-21', 1200));
        self::assertSame([], $why(23800, '2026-06-21'), 'nothing of the kind is asked for');
        $two = [self::item(1, 25000), self::item(2, 25500)];
        self::assertSame([], Placer::ideas(24500, '', $two, Day::of(self::ON), 1200), 'two that fit end it');
    }
}
