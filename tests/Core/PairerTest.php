<?php

declare(strict_types=1);

namespace Nelbix\Tests\Core;

use Brick\Math\BigDecimal;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Ledger\DocumentKind;
use Nelbix\Core\Ledger\Side;
use Nelbix\Core\OpenItems\OpenItem;
use Nelbix\Core\Placement\Pairer;
use Nelbix\Core\Placement\Pairing;
use Nelbix\Core\Terms\DatedDiscount;
use Nelbix\Core\Terms\EarlyDiscount;
use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\TestCase;

/** What credits that are there already fit. Source: rules.md, Proposing where a receipt goes; Pairing, sole. */
final class PairerTest extends TestCase
{
    private static function item(int $id, int $open, ?string $moved = null, int $discount = 0): OpenItem
    {
        $day = Day::of('2026-06-01');

        return new OpenItem(
            $id,
            Side::Receivables,
            7,
            match (true) {
                $open > 0 => DocumentKind::Invoice,
                null === $moved => DocumentKind::CreditNote,
                default => DocumentKind::Receipt,
            },
            'CI-26-0000'.$id,
            1200,
            'USD',
            $open,
            $open,
            $open,
            $open,
            null === $moved ? $day : Day::of($moved),
            $day->plusDays(30 + $id),
            0 === $discount
                ? null
                : new EarlyDiscount($open, $open, [
                    new DatedDiscount($day->plusDays(10), BigDecimal::of(2), $discount),
                ]),
            null === $moved ? null : Day::of($moved),
        );
    }

    /** @return iterable<string, array{list<OpenItem>, array<int, string>, array<int, list<int>>}> items, texts, what fits by credit */
    public static function cases(): iterable
    {
        $late = '2026-07-01';
        yield 'one credit, one invoice of its amount' => [
            [self::item(1, 500), self::item(2, -500, $late)],
            [],
            [2 => [1]],
        ];
        yield 'two invoices of the amount: nobody knows which' => [
            [self::item(1, 500), self::item(2, 500), self::item(3, -500, $late)],
            [],
            [],
        ];
        yield 'two credits for one invoice: neither is sole, so the older one is looked at by the rules' => [
            [self::item(1, 500), self::item(3, -500, '2026-06-20'), self::item(4, -500, $late)],
            [],
            [3 => [1]],
        ];
        yield 'the text says which of two' => [
            [self::item(1, 500), self::item(2, 500), self::item(3, -500, $late)],
            [3 => 'your CI-26-00002'],
            [3 => [2]],
        ];
        yield 'less the discount of the day the money moved' => [
            [self::item(1, 10000, null, 200), self::item(2, -9800, '2026-06-11')],
            [],
            [2 => [1]],
        ];
        yield 'a day later it is lost' => [
            [self::item(1, 10000, null, 200), self::item(2, -9800, '2026-06-12')],
            [],
            [],
        ];
        yield 'a credit note earns no discount' => [[self::item(1, 10000, null, 200), self::item(2, -9800)], [], []];
        yield 'only one sum fits' => [
            [self::item(1, 300), self::item(2, 450), self::item(3, 90), self::item(4, -750, $late)],
            [],
            [4 => [1, 2]],
        ];
        yield 'the whole account' => [
            [self::item(1, 300), self::item(2, 450), self::item(4, -750, $late)],
            [],
            [4 => [1, 2]],
        ];
        yield 'what is taken is taken once' => [
            [self::item(1, 300), self::item(2, 450), self::item(3, -300, $late), self::item(4, -750, $late)],
            [],
            [3 => [1]],
        ];
        yield 'nothing is owed' => [[self::item(1, -300, $late)], [], []];
    }

    /**
     * @param list<OpenItem> $items
     * @param array<int, string> $texts
     * @param array<int, list<int>> $expected
     */
    #[DataProvider('cases')]
    public function testWhatFits(array $items, array $texts, array $expected): void
    {
        $found = [];
        foreach (Pairer::of($items, $texts) as $pair) {
            $found[$pair->credit->id] = array_keys($pair->idea->placed);
        }
        self::assertSame($expected, $found);
        shuffle($items);
        self::assertCount(\count($expected), Pairer::of($items, $texts), 'the order of the items decides nothing');
    }

    /** No item twice, each credit used up, nothing placed beyond what is open: whatever the items are. */
    public function testWhateverIsProposedHolds(): void
    {
        mt_srand(20261126);
        $proposed = 0;
        for ($n = 0; $n < 300; ++$n) {
            $items = [];
            for ($k = 1; $k <= mt_rand(2, 12); ++$k) {
                $credit = 0 === mt_rand(0, 2);
                $amount = mt_rand(1, 8) * 100;
                $items[$k] = self::item(
                    $k,
                    $credit ? -$amount : $amount,
                    $credit && 0 === mt_rand(0, 1) ? '2026-06-0'.mt_rand(1, 9) : null,
                    $credit ? 0 : mt_rand(0, 1) * intdiv($amount, 50),
                );
            }
            $used = [];
            foreach (Pairer::of(array_values($items), []) as $pair) {
                ++$proposed;
                $net = 0;
                foreach ($pair->idea->placed as $id => $p) {
                    $used[] = $id;
                    self::assertLessThanOrEqual($items[$id]->open, $p['gross']);
                    $net += $p['gross'] - $p['discount'];
                }
                $used[] = $pair->credit->id;
                self::assertSame(-$pair->credit->open, $net, 'the credit is used up, no more');
            }
            self::assertSame(array_unique($used), $used, 'each once');
        }
        self::assertGreaterThan(100, $proposed);
    }
}
