<?php

declare(strict_types=1);

namespace Nelbix\Tests\Core;

use Brick\Math\BigDecimal;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Ledger\DocumentKind;
use Nelbix\Core\Ledger\Side;
use Nelbix\Core\OpenItems\OpenItem;
use Nelbix\Core\Settlement\Adjustment;
use Nelbix\Core\Settlement\AdjustmentKind;
use Nelbix\Core\Settlement\Placement;
use Nelbix\Core\Settlement\SettlementDraft;
use Nelbix\Core\Settlement\Settler;
use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\TestCase;

/** Settlements as the table of events in rules.md has them: what each posts beside the money's own entry. */
final class SettlementEventsTest extends TestCase
{
    private const CONTROL = 10;
    private const PREPAID = 11;
    private const EXCHANGE = 12;
    private const OTHER = 13;

    private static function item(
        Side $side,
        int $id,
        int $open,
        int $base,
        DocumentKind $kind = DocumentKind::Invoice,
        int $account = self::CONTROL,
        string $currency = 'USD',
    ): OpenItem {
        return new OpenItem(
            $id,
            $side,
            7,
            $kind,
            'I-'.$id,
            $account,
            $currency,
            $open,
            $base,
            $open,
            $base,
            Day::of('2026-05-01'),
            Day::of('2026-06-01'),
        );
    }

    /**
     * @param list<array{OpenItem, int}> $placed
     * @param list<array{AdjustmentKind, int, int}> $adjusted kind, item, amount
     */
    private static function settle(array $placed, array $adjusted = [], string $rate = '1'): SettlementDraft
    {
        return (new Settler('USD', self::EXCHANGE))->settle(
            array_map(static fn (array $p): Placement => new Placement($p[0], $p[1]), $placed),
            array_map(static fn (array $a): Adjustment => new Adjustment($a[0], $a[1], $a[2], self::OTHER), $adjusted),
            Day::of('2026-06-15'),
            BigDecimal::of($rate),
            'test',
        );
    }

    /** @return iterable<string, array{AdjustmentKind, int}> kind and what stays short of 1,000.00 */
    public static function adjustments(): iterable
    {
        yield 'discount' => [AdjustmentKind::Discount, 2000];
        yield 'small difference' => [AdjustmentKind::WriteOff, 37];
        yield 'withholding tax' => [AdjustmentKind::Withholding, 9800];
        yield 'bad debt' => [AdjustmentKind::BadDebt, 60000];
        yield 'bank charge' => [AdjustmentKind::BankCharge, 1500];
    }

    #[DataProvider('adjustments')]
    public function testAnAdjustmentIsDebitedInReceivablesAndCreditedInPayables(AdjustmentKind $kind, int $short): void
    {
        foreach ([[Side::Receivables, 1], [Side::Payables, -1]] as [$side, $sign]) {
            $draft = self::settle(
                [
                    [self::item($side, 1, 100000, 100000), 100000],
                    [
                        self::item($side, 2, -(100000 - $short), -(100000 - $short), DocumentKind::Receipt),
                        -(100000 - $short),
                    ],
                ],
                [[$kind, 1, -$short]],
            );
            self::assertSame(
                [$sign * $short, -$sign * $short, 0],
                [$draft->entry->movementOn(self::OTHER), $draft->entry->movementOn(self::CONTROL), $draft->exchange],
            );
        }
    }

    public function testAnOverpaymentWrittenOffGoesTheOtherWay(): void
    {
        // 100.50 came for 100.00: the half is kept as a small difference, on the money's own item
        $draft = self::settle(
            [
                [self::item(Side::Receivables, 1, 10000, 10000), 10000],
                [self::item(Side::Receivables, 2, -10050, -10050, DocumentKind::Receipt), -10050],
            ],
            [[AdjustmentKind::WriteOff, 2, 50]],
        );
        self::assertSame([-50, 50], [$draft->entry->movementOn(self::OTHER), $draft->entry->movementOn(self::CONTROL)]);
    }

    public function testManyItemsOnBothSides(): void
    {
        $r = Side::Receivables;
        $draft = self::settle([
            [self::item($r, 1, 485000, 485000), 485000],
            [self::item($r, 2, 62000, 62000), 62000],
            [self::item($r, 3, 740000, 740000), 348000],
            [self::item($r, 4, -850000, -850000, DocumentKind::Receipt), -850000],
            [self::item($r, 5, -45000, -45000, DocumentKind::CreditNote), -45000],
        ]);
        self::assertTrue($draft->entry->isEmpty(), 'one currency, one account, nothing adjusted: nothing to post');
        self::assertSame(
            [485000, 62000, 348000, -850000, -45000],
            array_map(static fn ($l): int => $l->appliedBase, $draft->lines),
        );
    }

    public function testACreditAgainstAnInvoiceNeedsNoMoney(): void
    {
        $draft = self::settle([
            [self::item(Side::Payables, 1, 100000, 100000), 20000],
            [self::item(Side::Payables, 2, -20000, -20000, DocumentKind::CreditNote), -20000],
        ]);
        self::assertTrue($draft->entry->isEmpty());
    }

    public function testAVendorPrepaymentPlacedMovesBetweenItsControls(): void
    {
        $draft = self::settle([
            [self::item(Side::Payables, 1, 50000, 50000), 50000],
            [self::item(Side::Payables, 2, -50000, -50000, DocumentKind::Prepayment, self::PREPAID), -50000],
        ]);
        // debit payables, credit vendor prepayments
        self::assertSame(
            [50000, -50000],
            [$draft->entry->movementOn(self::CONTROL), $draft->entry->movementOn(self::PREPAID)],
        );
    }

    /** @return iterable<string, array{Side, int, int, int}> base of the invoice, base of the money, loss (+) or gain (−) */
    public static function exchange(): iterable
    {
        yield 'customer pays when the rate fell' => [Side::Receivables, 110000, 108000, 2000];
        yield 'customer pays when the rate rose' => [Side::Receivables, 110000, 112000, -2000];
        yield 'we pay when the rate fell' => [Side::Payables, 110000, 108000, -2000];
        yield 'we pay when the rate rose' => [Side::Payables, 110000, 112000, 2000];
        yield 'no change' => [Side::Receivables, 110000, 110000, 0];
    }

    #[DataProvider('exchange')]
    public function testExchangeDifference(Side $side, int $invoice, int $money, int $loss): void
    {
        $draft = self::settle(
            [
                [self::item($side, 1, 100000, $invoice, currency: 'EUR'), 100000],
                [self::item($side, 2, -100000, -$money, DocumentKind::Receipt, currency: 'EUR'), -100000],
            ],
            [],
            '1.08',
        );
        self::assertSame([$loss, $loss], [$draft->exchange, $draft->entry->movementOn(self::EXCHANGE)]);
        self::assertSame(-$loss, $draft->entry->movementOn(self::CONTROL));
    }

    /** A base that does not divide is used up to the cent over any number of part payments. */
    public function testPartPaymentsUseTheBaseUp(): void
    {
        $open = 100003;
        $base = 110007;
        $used = 0;
        foreach ([33335, 33335, 33333] as $part) {
            $item = new OpenItem(
                1,
                Side::Receivables,
                7,
                DocumentKind::Invoice,
                'I-1',
                self::CONTROL,
                'EUR',
                100003,
                110007,
                $open,
                $base,
                Day::of('2026-05-01'),
                Day::of('2026-06-01'),
            );
            $draft = self::settle([
                [$item, $part],
                [self::item(Side::Receivables, 2, -$part, -$part, DocumentKind::Receipt, currency: 'EUR'), -$part],
            ]);
            $used += $draft->lines[0]->appliedBase;
            $open -= $part;
            $base -= $draft->lines[0]->appliedBase;
        }
        self::assertSame([0, 0, 110007], [$open, $base, $used]);
    }

    /** Random settlements (seeded): every entry balances, the adjustments and the exchange difference explain what leaves the control. */
    public function testRandomSettlements(): void
    {
        mt_srand(31);
        for ($round = 0; $round < 300; ++$round) {
            $side = Side::cases()[mt_rand(0, 1)];
            $placed = [];
            $sum = 0;
            for ($n = mt_rand(1, 6); $n > 0; --$n) {
                $open = mt_rand(100, 900_000);
                $applied = mt_rand(0, 1) ? $open : mt_rand(50, $open);
                $placed[] = [
                    self::item($side, $n, $open, (int) round(($open * mt_rand(90, 130)) / 100), currency: 'EUR'),
                    $applied,
                ];
                $sum += $applied;
            }
            $discount = mt_rand(0, 1) ? mt_rand(1, min(40, $placed[0][1])) : 0;
            $pay = $sum - $discount;
            $moneyRate = mt_rand(9000, 13000);
            $placed[] = [
                self::item($side, 99, -$pay - mt_rand(0, 500), 0, DocumentKind::Receipt, currency: 'EUR'),
                -$pay,
            ];
            $money = $placed[\count($placed) - 1][0];
            $placed[\count($placed) - 1] = [
                self::item(
                    $side,
                    99,
                    $money->open,
                    \Nelbix\Core\Money\Rounding::proportion($money->open, $moneyRate, 10000),
                    DocumentKind::Receipt,
                    currency: 'EUR',
                ),
                -$pay,
            ];
            $draft = self::settle(
                $placed,
                0 === $discount ? [] : [[AdjustmentKind::Discount, $placed[0][0]->id, -$discount]],
                (string) BigDecimal::ofUnscaledValue($moneyRate, 4),
            );
            $lines = $draft->entry->lines;
            self::assertSame(0, array_sum(array_map(static fn ($l): int => $l->base, $lines)));
            $left = -$side->ledgerSign() * array_sum(array_map(static fn ($l): int => $l->appliedBase, $draft->lines));
            self::assertSame($left, $draft->entry->movementOn(self::CONTROL));
            self::assertSame(-$left, $draft->entry->movementOn(self::OTHER) + $draft->exchange);
        }
    }
}
