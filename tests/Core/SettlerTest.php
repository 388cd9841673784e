<?php

declare(strict_types=1);

namespace Nelbix\Tests\Core;

use Brick\Math\BigDecimal;
use Eris\Generators;
use Eris\TestTrait;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Ledger\DocumentKind;
use Nelbix\Core\Ledger\MoneyEntry;
use Nelbix\Core\Ledger\MoneyPart;
use Nelbix\Core\Ledger\Side;
use Nelbix\Core\OpenItems\OpenItem;
use Nelbix\Core\Refused;
use Nelbix\Core\Settlement\Adjustment;
use Nelbix\Core\Settlement\AdjustmentKind;
use Nelbix\Core\Settlement\Placement;
use Nelbix\Core\Settlement\SettlementDraft;
use Nelbix\Core\Settlement\Settler;
use PHPUnit\Framework\TestCase;

final class SettlerTest extends TestCase
{
    use TestTrait;

    private const CONTROL = 1200;
    private const PREPAID = 2150;
    private const DISCOUNT = 4900;
    private const EXCHANGE = 7900;
    private const BAD_DEBT = 6900;
    private const TAX = 1300;
    private const BANK = 1000;

    private static function item(
        int $id,
        int $amount,
        int $base,
        string $currency = 'EUR',
        Side $side = Side::Receivables,
        int $account = self::CONTROL,
    ): OpenItem {
        return new OpenItem(
            $id,
            $side,
            7,
            $amount > 0 ? DocumentKind::Invoice : DocumentKind::Receipt,
            'I-'.$id,
            $account,
            $currency,
            $amount,
            $base,
            $amount,
            $base,
            Day::of('2026-05-01'),
            Day::of('2026-06-01'),
        );
    }

    /**
     * @param list<Placement> $placements
     * @param list<Adjustment> $adjustments
     */
    private static function settle(array $placements, array $adjustments, string $rate): SettlementDraft
    {
        return (new Settler('USD', self::EXCHANGE))->settle(
            $placements,
            $adjustments,
            Day::of('2026-06-15'),
            BigDecimal::of($rate),
            'test',
        );
    }

    /** 1,000.00 EUR invoiced at 1.10, received at 1.08: loss 20.00. Source: rules.md, Settlements. */
    public function testExchangeLoss(): void
    {
        $d = self::settle(
            [
                new Placement(self::item(1, 100000, 110000), 100000),
                new Placement(self::item(2, -100000, -108000), -100000),
            ],
            [],
            '1.08',
        );
        self::assertSame(2000, $d->exchange);
        self::assertSame(2000, $d->entry->movementOn(self::EXCHANGE));
        self::assertSame(-2000, $d->entry->movementOn(self::CONTROL));
    }

    /** 980.00 EUR at 1.08 and 20.00 discount on an invoice at 1.10: discount 21.60, loss 20.00, control 1,100.00. */
    public function testDiscountInForeignCurrency(): void
    {
        $d = self::settle(
            [
                new Placement(self::item(1, 100000, 110000), 100000),
                new Placement(self::item(2, -98000, -105840), -98000),
            ],
            [new Adjustment(AdjustmentKind::Discount, 1, -2000, self::DISCOUNT)],
            '1.08',
        );
        self::assertSame(
            [2160, 2000, -4160],
            [$d->entry->movementOn(self::DISCOUNT), $d->exchange, $d->entry->movementOn(self::CONTROL)],
        );
    }

    /**
     * 400.00 of it received at 1.12: gain 8.00, 660.00 base left; the remaining 600.00 written off at 1.05: bad debt 630.00, loss
     * 30.00.
     */
    public function testPartThenWriteOff(): void
    {
        $invoice = self::item(1, 100000, 110000);
        $d = self::settle(
            [new Placement($invoice, 40000), new Placement(self::item(2, -40000, -44800), -40000)],
            [],
            '1.12',
        );
        self::assertSame([-800, 44000], [$d->exchange, $d->lines[0]->appliedBase]);
        $rest = new OpenItem(
            1,
            Side::Receivables,
            7,
            DocumentKind::Invoice,
            'I-1',
            self::CONTROL,
            'EUR',
            100000,
            110000,
            60000,
            66000,
            Day::of('2026-05-01'),
            Day::of('2026-06-01'),
        );
        $d = self::settle(
            [new Placement($rest, 60000)],
            [new Adjustment(AdjustmentKind::BadDebt, 1, -60000, self::BAD_DEBT)],
            '1.05',
        );
        self::assertSame(
            [63000, 3000, -66000],
            [$d->entry->movementOn(self::BAD_DEBT), $d->exchange, $d->entry->movementOn(self::CONTROL)],
        );
    }

    /** 1,000.00 EUR (base 1,100.00) received as 1,075.00 USD: bank 1,075.00, loss 25.00, control 1,100.00. */
    public function testMoneyThatMovedInAnotherCurrency(): void
    {
        $e = MoneyEntry::draft(
            Side::Receivables,
            self::BANK,
            self::EXCHANGE,
            'r',
            'EUR',
            [new MoneyPart(self::CONTROL, 7, 100000, 110000)],
            107500,
        );
        self::assertSame(
            [107500, 2500, -110000],
            [$e->movementOn(self::BANK), $e->movementOn(self::EXCHANGE), $e->movementOn(self::CONTROL)],
        );
    }

    /** 1,000.00 + 20 % tax, 2 %: payables 1,200.00, bank 1,176.00, discounts received 20.00, input tax 4.00. */
    public function testDiscountThatCorrectsTaxOnThePayablesSide(): void
    {
        $d = self::settle(
            [
                new Placement(self::item(1, 120000, 120000, 'USD', Side::Payables), 120000),
                new Placement(self::item(2, -117600, -117600, 'USD', Side::Payables), -117600),
            ],
            [
                new Adjustment(AdjustmentKind::Discount, 1, -2400, self::DISCOUNT, [
                    ['account' => self::TAX, 'amount' => -400],
                ]),
            ],
            '1',
        );
        self::assertSame(
            [-2000, -400, 2400, 0],
            [
                $d->entry->movementOn(self::DISCOUNT),
                $d->entry->movementOn(self::TAX),
                $d->entry->movementOn(self::CONTROL),
                $d->exchange,
            ],
        );
    }

    public function testPlainSettlementPostsNothing(): void
    {
        $d = self::settle(
            [
                new Placement(self::item(1, 100000, 100000, 'USD'), 50000),
                new Placement(self::item(2, -50000, -50000, 'USD'), -50000),
            ],
            [],
            '1',
        );
        self::assertTrue($d->entry->isEmpty());
    }

    public function testPrepaymentPlacedMovesBetweenControlAccounts(): void
    {
        $d = self::settle(
            [
                new Placement(self::item(1, 50000, 50000, 'USD'), 50000),
                new Placement(self::item(2, -50000, -50000, 'USD', Side::Receivables, self::PREPAID), -50000),
            ],
            [],
            '1',
        );
        self::assertSame([-50000, 50000], [$d->entry->movementOn(self::CONTROL), $d->entry->movementOn(self::PREPAID)]);
    }

    public function testRefusals(): void
    {
        $invoice = self::item(1, 10000, 10000, 'USD');
        $receipt = self::item(2, -10000, -10000, 'USD');
        $cases = [
            [[], []],
            [[new Placement($invoice, 10001), new Placement($receipt, -10001)], []],
            [[new Placement($invoice, -1)], []],
            [[new Placement($invoice, 5000), new Placement($receipt, -4999)], []],
            [[new Placement($invoice, 5000), new Placement($invoice, 5000)], []],
            [[new Placement($invoice, 10000), new Placement(self::item(3, -10000, -10000, 'EUR'), -10000)], []],
            [[new Placement($invoice, 10000)], [new Adjustment(AdjustmentKind::WriteOff, 1, 10000, 1)]],
            [[new Placement($invoice, 10000)], [new Adjustment(AdjustmentKind::WriteOff, 9, -10000, 1)]],
        ];
        foreach ($cases as $k => [$placements, $adjustments]) {
            try {
                self::settle($placements, $adjustments, '1');
                self::fail('case '.$k.' was accepted');
            } catch (Refused $e) {
                self::assertNotSame('', $e->getMessage());
            }
        }
        $this->expectException(Refused::class);
        (new Settler('USD', self::EXCHANGE))->settle(
            [new Placement($invoice, 10000), new Placement($receipt, -10000)],
            [],
            Day::of('2026-04-30'),
            BigDecimal::one(),
            'before the items',
        );
    }

    /** Applying an item in parts always uses up exactly its base, and every entry balances (JournalDraft refuses others). */
    public function testBaseIsUsedUpExactly(): void
    {
        $this->limitTo(200)
            ->forAll(
                Generators::choose(3, 9_000_000),
                Generators::choose(50, 20000),
                Generators::choose(1, 99),
                Generators::choose(50, 20000),
            )
            ->then(static function (int $amount, int $rate, int $percent, int $moneyRate): void {
                $base = \Nelbix\Core\Money\Rounding::proportion($amount, $rate, 10000);
                $first = max(1, intdiv($amount * $percent, 100));
                $used = 0;
                $open = $amount;
                $openBase = $base;
                foreach ([$first, $amount - $first] as $applied) {
                    if (0 === $applied) {
                        continue;
                    }
                    $item = new OpenItem(
                        1,
                        Side::Receivables,
                        7,
                        DocumentKind::Invoice,
                        'I',
                        1200,
                        'EUR',
                        $amount,
                        $base,
                        $open,
                        $openBase,
                        Day::of('2026-05-01'),
                        Day::of('2026-06-01'),
                    );
                    $money = self::item(
                        2,
                        -$applied,
                        -\Nelbix\Core\Money\Rounding::proportion($applied, $moneyRate, 10000),
                    );
                    $d = self::settle(
                        [new Placement($item, $applied), new Placement($money, -$applied)],
                        [],
                        (string) ($moneyRate / 10000),
                    );
                    $used += $d->lines[0]->appliedBase;
                    $open -= $applied;
                    $openBase -= $d->lines[0]->appliedBase;
                }
                self::assertSame($base, $used);
                self::assertSame([0, 0], [$open, $openBase]);
            });
    }
}
