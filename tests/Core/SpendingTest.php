<?php

declare(strict_types=1);

namespace Nelbix\Tests\Core;

use Brick\Math\BigDecimal;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Ledger\DocumentKind;
use Nelbix\Core\Ledger\Side;
use Nelbix\Core\OpenItems\OpenItem;
use Nelbix\Core\Placement\Spending;
use Nelbix\Core\Terms\DatedDiscount;
use Nelbix\Core\Terms\EarlyDiscount;
use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\TestCase;

/**
 * What a key places on a row of the board, and so the server. Source: rules.md, Payment terms, Discount ("p ≥ O settles O with discount 0",
 * "Taking a whole item without a stated amount takes O − L", "Credits alone earn none"); figures worked by hand from these.
 */
final class SpendingTest extends TestCase
{
    private const ON = '2026-06-15';

    /** @param int $percent a discount that holds; 0 for none */
    private static function item(int $id, int $open, int $percent = 0): OpenItem
    {
        $steps = [new DatedDiscount(Day::of('2026-06-20'), BigDecimal::of($percent), intdiv($open * $percent, 100))];

        return new OpenItem(
            $id,
            Side::Receivables,
            1,
            $open < 0 ? DocumentKind::CreditNote : DocumentKind::Invoice,
            'N-'.$id,
            1200,
            'USD',
            $open,
            $open,
            $open,
            $open,
            Day::of('2026-06-01'),
            Day::of('2026-07-01'),
            0 === $percent ? null : new EarlyDiscount($open, $open, $steps),
        );
    }

    /** @return iterable<string, array{int|null, bool, array{int, int}, int|null}> left, money, gross and discount, left then */
    public static function onOneRow(): iterable
    {
        // 1,080.00 with 2 %: L is 21.60
        yield 'all that is open: no discount' => [108_000, true, [108_000, 0], 0];
        yield 'more than is open: none either' => [108_001, true, [108_000, 0], 1];
        yield 'one short of it: the discount is what lacks' => [107_999, true, [108_000, 1], 0];
        yield 'just what is open less the discount' => [105_840, true, [108_000, 2_160], 0];
        yield 'one short of that: a part with its part' => [105_839, true, [107_999, 2_160], 0];
        yield 'half of it' => [52_920, true, [54_000, 1_080], 0];
        yield 'the amount is not said: all of it, less the discount' => [null, true, [108_000, 2_160], null];
        yield 'credits alone earn none' => [105_840, false, [105_840, 0], 0];
        yield 'credits alone that reach it' => [108_000, false, [108_000, 0], 0];
        yield 'credits alone, the amount not said' => [null, false, [108_000, 0], null];
    }

    /** @param array{int, int} $placed */
    #[DataProvider('onOneRow')]
    public function testOnOneRow(?int $left, bool $money, array $placed, ?int $leftThen): void
    {
        $item = self::item(1, 108_000, 2);
        self::assertSame(
            [[1 => ['gross' => $placed[0], 'discount' => $placed[1]]], $leftThen],
            Spending::fitted($left, $item, [$item], [], $money ? Day::of(self::ON) : null),
        );
    }

    public function testNothingIsLeft(): void
    {
        $item = self::item(1, 108_000, 2);
        self::assertSame([[], 0], Spending::fitted(0, $item, [$item], [], Day::of(self::ON)));
    }

    /** @return iterable<string, array{int, list<array{int, int}>}> what came, and gross and discount of 1,000.00 and 500.00, 2 % each */
    public static function onTwoRows(): iterable
    {
        yield 'both in full' => [150_000, [[100_000, 0], [50_000, 0]]];
        yield 'both less all discount: the first gives up its own' => [147_000, [[100_000, 2_000], [50_000, 1_000]]];
        yield 'a little of the first is enough' => [148_500, [[100_000, 500], [50_000, 1_000]]];
        yield 'the second alone takes what lacks' => [149_500, [[100_000, 0], [50_000, 500]]];
        yield 'it does not make the second whole: the first keeps what it paid' => [
            146_999,
            [[100_000, 0], [47_958, 959]],
        ];
        yield 'the first, and a part' => [108_000, [[100_000, 0], [8_163, 163]]];
        yield 'less than the first' => [98_000, [[100_000, 2_000]]];
    }

    /** @param list<array{int, int}> $expected */
    #[DataProvider('onTwoRows')]
    public function testOnTwoRowsByKeyAndByTheServerAlike(int $came, array $expected): void
    {
        $items = [self::item(1, 100_000, 2), self::item(2, 50_000, 2)];
        $placed = [];
        $left = $came;
        foreach ($items as $item) {
            [$placed, $left] = Spending::fitted($left, $item, $items, $placed, Day::of(self::ON));
        }
        $now = array_map(static fn (array $p): array => [$p['gross'], $p['discount']], array_values($placed));
        self::assertSame($expected, $now);
        self::assertSame($placed, Spending::on($came, $items, Day::of(self::ON)));
    }

    /** @return iterable<string, array{int|null, array<int, array{gross: int, discount: int}>, int}> left, what stands there, used */
    public static function ofACredit(): iterable
    {
        // 100.00 and 200.00 owed, a credit of 500.00 and one of 50.00
        yield 'no more than is owed' => [0, [], 30_000];
        yield 'money is there for some of it' => [12_000, [], 18_000];
        yield 'money covers all' => [30_000, [], 0];
        yield 'what is placed needs it no more' => [0, [1 => ['gross' => 10_000, 'discount' => 0]], 20_000];
        yield 'the other credit was used' => [5_000, [4 => ['gross' => 5_000, 'discount' => 0]], 25_000];
        yield 'the amount follows: it pays what is placed' => [
            null,
            [1 => ['gross' => 10_000, 'discount' => 0]],
            30_000,
        ];
        yield 'the amount follows, the other credit was used' => [
            null,
            [4 => ['gross' => 5_000, 'discount' => 0]],
            25_000,
        ];
    }

    /** @param array<int, array{gross: int, discount: int}> $placed */
    #[DataProvider('ofACredit')]
    public function testACreditIsUsedAsFarAsRowsStillOwe(?int $left, array $placed, int $used): void
    {
        $items = [self::item(1, 10_000), self::item(2, 20_000), self::item(3, -50_000), self::item(4, -5_000)];
        [$then, $leftThen] = Spending::fitted($left, $items[2], $items, $placed, null);
        self::assertSame($used, $then[3]['gross'] ?? 0);
        self::assertSame(null === $left ? null : $left + $used, $leftThen);
    }

    public function testASmallCreditIsUsedWhole(): void
    {
        $items = [self::item(1, 10_000), self::item(4, -5_000)];
        self::assertSame(5_000, Spending::fitted(0, $items[1], $items, [], null)[0][4]['gross'] ?? 0);
    }

    public function testAMarkedListTakesNoDiscountThatTheAmountDoesNotNeed(): void
    {
        $items = [self::item(1, 100_000, 2), self::item(2, 50_000, 2)];
        $on = Day::of(self::ON);
        $discounts = static fn (int $amount): array => array_column(
            Spending::asMarked($amount, $items, [1 => 0, 2 => 0], $on),
            'discount',
        );
        self::assertSame([0, 0], $discounts(150_000));
        self::assertSame([2_000, 1_000], $discounts(147_000));
        self::assertSame([2_000, 1_000], $discounts(0), 'what it comes to');
    }
}
