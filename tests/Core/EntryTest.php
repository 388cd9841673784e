<?php

declare(strict_types=1);

namespace Nelbix\Tests\Core;

use Brick\Math\BigDecimal;
use Nelbix\Core\Ledger\AccountRole;
use Nelbix\Core\Ledger\Analysis;
use Nelbix\Core\Ledger\DocumentKind;
use Nelbix\Core\Ledger\DraftLine;
use Nelbix\Core\Ledger\InvoiceEntry;
use Nelbix\Core\Ledger\JournalDraft;
use Nelbix\Core\Ledger\MoneyEntry;
use Nelbix\Core\Ledger\MoneyPart;
use Nelbix\Core\Ledger\Side;
use Nelbix\Core\Ledger\TransferEntry;
use Nelbix\Core\Ledger\TransferLeg;
use Nelbix\Core\Ledger\UnbalancedEntry;
use Nelbix\Core\Tax\TaxCalculator;
use Nelbix\Core\Tax\TaxCode;
use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\TestCase;

/** Source of the cases: rules.md, the table of events and the table of signs. */
final class EntryTest extends TestCase
{
    private const CONTROL = 1;
    private const LINE = 2;
    private const INPUT = 3;
    private const OUTPUT = 4;

    /** @return iterable<string, array{Side, DocumentKind, TaxCode|null, array<int, int>}> account => ledger sign amount for 100.00 net */
    public static function events(): iterable
    {
        $plain = new TaxCode('T', BigDecimal::of('20'));
        $reverse = new TaxCode('T', BigDecimal::of('20'), reverseCharge: true);
        $half = new TaxCode('T', BigDecimal::of('20'), recoverablePercent: BigDecimal::of('50'));
        yield 'vendor invoice' => [
            Side::Payables,
            DocumentKind::Invoice,
            $plain,
            [self::CONTROL => -12000, self::LINE => 10000, self::INPUT => 2000],
        ];
        yield 'vendor invoice without tax' => [
            Side::Payables,
            DocumentKind::Invoice,
            null,
            [self::CONTROL => -10000, self::LINE => 10000],
        ];
        yield 'vendor invoice, tax half recoverable' => [
            Side::Payables,
            DocumentKind::Invoice,
            $half,
            [self::CONTROL => -12000, self::LINE => 11000, self::INPUT => 1000],
        ];
        yield 'vendor invoice under reverse charge' => [
            Side::Payables,
            DocumentKind::Invoice,
            $reverse,
            [self::CONTROL => -10000, self::LINE => 10000, self::INPUT => 2000, self::OUTPUT => -2000],
        ];
        yield 'vendor credit note' => [
            Side::Payables,
            DocumentKind::CreditNote,
            $plain,
            [self::CONTROL => 12000, self::LINE => -10000, self::INPUT => -2000],
        ];
        yield 'our claim on a vendor' => [
            Side::Payables,
            DocumentKind::DebitNote,
            null,
            [self::CONTROL => 10000, self::LINE => -10000],
        ];
        yield 'customer invoice' => [
            Side::Receivables,
            DocumentKind::Invoice,
            $plain,
            [self::CONTROL => 12000, self::LINE => -10000, self::OUTPUT => -2000],
        ];
        yield 'customer credit note' => [
            Side::Receivables,
            DocumentKind::CreditNote,
            $plain,
            [self::CONTROL => -12000, self::LINE => 10000, self::OUTPUT => 2000],
        ];
        yield 'customer debit note' => [
            Side::Receivables,
            DocumentKind::DebitNote,
            null,
            [self::CONTROL => 10000, self::LINE => -10000],
        ];
        yield 'finance charge' => [
            Side::Receivables,
            DocumentKind::FinanceCharge,
            null,
            [self::CONTROL => 10000, self::LINE => -10000],
        ];
        yield 'customer invoice, the customer owes the tax' => [
            Side::Receivables,
            DocumentKind::Invoice,
            $reverse,
            [self::CONTROL => 10000, self::LINE => -10000],
        ];
    }

    /** @param array<int, int> $expected */
    #[DataProvider('events')]
    public function testInvoiceEvents(Side $side, DocumentKind $kind, ?TaxCode $code, array $expected): void
    {
        $tax = TaxCalculator::compute([['amount' => 10000, 'code' => $code]]);
        $draft = InvoiceEntry::draft(
            $side,
            $kind->itemSign($side),
            self::CONTROL,
            7,
            'text',
            'USD',
            [['account' => self::LINE, 'text' => '', 'analysis' => new Analysis(1, 2, 3)]],
            $tax,
            ['T' => ['input' => self::INPUT, 'output' => self::OUTPUT]],
            $tax->total(),
        );
        $found = [];
        foreach ($draft->lines as $line) {
            $found[$line->account] = $line->base;
        }
        self::assertSame($expected, $found);
        self::assertSame(7, $draft->lines[0]->party);
        self::assertSame(
            [1, 2, 3],
            [
                $draft->lines[1]->analysis->costCenter,
                $draft->lines[1]->analysis->department,
                $draft->lines[1]->analysis->project,
            ],
        );
        foreach ($draft->reversed()->lines as $k => $line) {
            self::assertSame(-$draft->lines[$k]->base, $line->base);
        }
    }

    /** Three lines of 33.35 EUR at 1.1111: 111.17 = 37.06 + 37.06 + 37.05. Source: rules.md, Money. */
    public function testBaseIsSharedOverTheLines(): void
    {
        $line = ['account' => self::LINE, 'text' => '', 'analysis' => new Analysis()];
        $tax = TaxCalculator::compute(array_fill(0, 3, ['amount' => 3335, 'code' => null]));
        $base = InvoiceEntry::base(10005, 'EUR', 'USD', '1.1111');
        $draft = InvoiceEntry::draft(
            Side::Payables,
            1,
            self::CONTROL,
            7,
            'x',
            'EUR',
            [$line, $line, $line],
            $tax,
            [],
            $base,
        );
        self::assertSame(
            [-11117, 3706, 3706, 3705],
            array_map(static fn (DraftLine $l): int => $l->base, $draft->lines),
        );
        self::assertSame(
            [-10005, 3335, 3335, 3335],
            array_map(static fn (DraftLine $l): int => $l->amount, $draft->lines),
        );
    }

    /** A total of zero still moves its lines: 50.00 EUR from one account to another at 1.1111. */
    public function testZeroTotal(): void
    {
        $line = static fn (int $account): array => ['account' => $account, 'text' => '', 'analysis' => new Analysis()];
        $tax = TaxCalculator::compute([
            ['amount' => 5000, 'code' => null],
            ['amount' => -3333, 'code' => null],
            ['amount' => -1667, 'code' => null],
        ]);
        $draft = InvoiceEntry::draft(
            Side::Payables,
            1,
            self::CONTROL,
            7,
            'x',
            'EUR',
            [$line(2), $line(3), $line(4)],
            $tax,
            [],
            0,
            static fn (int $a): int => InvoiceEntry::base($a, 'EUR', 'USD', '1.1111'),
        );
        self::assertSame([5556, -3704, -1852], [$draft->movementOn(2), $draft->movementOn(3), $draft->movementOn(4)]);
        self::assertSame(0, $draft->movementOn(self::CONTROL));
    }

    public function testMoneyEvents(): void
    {
        $parts = [new MoneyPart(self::CONTROL, 7, 98000, 98000)];
        $receipt = MoneyEntry::draft(Side::Receivables, 9, 8, 'r', 'USD', $parts, 98000);
        self::assertSame([98000, -98000], [$receipt->movementOn(9), $receipt->movementOn(self::CONTROL)]);
        $payment = MoneyEntry::draft(Side::Payables, 9, 8, 'p', 'USD', $parts, 98000);
        self::assertSame([-98000, 98000], [$payment->movementOn(9), $payment->movementOn(self::CONTROL)]);
    }

    /**
     * @return iterable<string, array{list<TransferLeg>, array<int, int>}> legs, account => ledger sign amount. Source: rules.md,
     *                                                                     Transfers and Contra
     */
    public static function transfers(): iterable
    {
        [$receivables, $payables, $prepayments, $refunds] = [1200, 2100, 2150, 2160];
        $leg = static fn (Side $side, int $account, int $amount): TransferLeg => new TransferLeg(
            $side,
            $account,
            7,
            $amount,
            $amount,
        );
        yield 'claim: −100.00 and +100.00 on receivables' => [
            [$leg(Side::Receivables, $receivables, -10000), $leg(Side::Receivables, $receivables, 10000)],
            [],
        ];
        yield 'refund request: 200.00 stands on refunds payable' => [
            [$leg(Side::Receivables, $receivables, 20000), $leg(Side::Payables, $refunds, 20000)],
            [$receivables => 20000, $refunds => -20000],
        ];
        yield 'to prepayment: +500.00 on receivables, −500.00 on prepayments' => [
            [$leg(Side::Receivables, $receivables, 50000), $leg(Side::Receivables, $prepayments, -50000)],
            [$receivables => 50000, $prepayments => -50000],
        ];
        yield 'and back' => [
            [$leg(Side::Receivables, $prepayments, 50000), $leg(Side::Receivables, $receivables, -50000)],
            [$prepayments => 50000, $receivables => -50000],
        ];
        yield 'contra: −500.00 in payables and in receivables' => [
            [$leg(Side::Payables, $payables, -50000), $leg(Side::Receivables, $receivables, -50000)],
            [$payables => 50000, $receivables => -50000],
        ];
    }

    /**
     * @param non-empty-list<TransferLeg> $legs
     * @param array<int, int> $expected
     */
    #[DataProvider('transfers')]
    public function testTransfers(array $legs, array $expected): void
    {
        $found = [];
        foreach (TransferEntry::draft('USD', $legs, 'transfer')->lines as $line) {
            $found[$line->account] = $line->base;
        }
        self::assertSame($expected, $found);
    }

    public function testATransferThatDoesNotBalanceIsADefect(): void
    {
        $this->expectException(UnbalancedEntry::class);
        TransferEntry::draft(
            'USD',
            [new TransferLeg(Side::Payables, 1, 7, 100, 100), new TransferLeg(Side::Receivables, 2, 7, -100, -100)],
            'x',
        );
    }

    public function testUnbalancedDraftsAreADefect(): void
    {
        $this->expectException(UnbalancedEntry::class);
        JournalDraft::of('USD', [new DraftLine(1, 100, 100), new DraftLine(2, -99, -99)]);
    }

    public function testLinesOfZeroAreLeftOut(): void
    {
        self::assertTrue(JournalDraft::of('USD', [new DraftLine(1, 0, 0)])->isEmpty());
    }

    /** @return iterable<string, array{DocumentKind, Side, int, string}> sign of the item, letters of the number */
    public static function signs(): iterable
    {
        yield 'vendor invoice' => [DocumentKind::Invoice, Side::Payables, 1, 'VI'];
        yield 'vendor credit note' => [DocumentKind::CreditNote, Side::Payables, -1, 'VC'];
        yield 'vendor debit note, our claim' => [DocumentKind::DebitNote, Side::Payables, -1, 'VD'];
        yield 'customer invoice' => [DocumentKind::Invoice, Side::Receivables, 1, 'CI'];
        yield 'customer credit note' => [DocumentKind::CreditNote, Side::Receivables, -1, 'CC'];
        yield 'customer debit note' => [DocumentKind::DebitNote, Side::Receivables, 1, 'CD'];
        yield 'finance charge' => [DocumentKind::FinanceCharge, Side::Receivables, 1, 'FC'];
        yield 'receipt' => [DocumentKind::Receipt, Side::Receivables, -1, 'RC'];
        yield 'payment' => [DocumentKind::Payment, Side::Payables, -1, 'PY'];
        yield 'vendor prepayment' => [DocumentKind::Prepayment, Side::Payables, -1, 'PY'];
        yield 'customer prepayment' => [DocumentKind::Prepayment, Side::Receivables, -1, 'RC'];
    }

    #[DataProvider('signs')]
    public function testSignsAndNumbers(DocumentKind $kind, Side $side, int $sign, string $prefix): void
    {
        self::assertSame([$sign, $prefix], [$kind->itemSign($side), $kind->prefix($side)]);
    }

    /** @return iterable<string, array{AccountRole, Side|null, int}> side and normal balance (debit 1, credit −1) of each control account */
    public static function controls(): iterable
    {
        yield 'payables' => [AccountRole::Payables, Side::Payables, -1];
        yield 'receivables' => [AccountRole::Receivables, Side::Receivables, 1];
        yield 'vendor prepayments' => [AccountRole::VendorPrepayments, Side::Payables, 1];
        yield 'customer prepayments' => [AccountRole::CustomerPrepayments, Side::Receivables, -1];
        yield 'refunds payable' => [AccountRole::RefundsPayable, Side::Payables, -1];
        yield 'received, not invoiced' => [AccountRole::ReceivedNotInvoiced, null, -1];
        yield 'invoiced, not received' => [AccountRole::InvoicedNotReceived, null, 1];
        yield 'unidentified receipts' => [AccountRole::UnidentifiedReceipts, Side::Receivables, -1];
        yield 'money on hand' => [AccountRole::MoneyOnHand, null, 1];
    }

    #[DataProvider('controls')]
    public function testControlAccounts(AccountRole $role, ?Side $side, int $normal): void
    {
        self::assertTrue($role->isControl());
        self::assertSame([$side, $normal], [$role->side(), $role->normalSign()]);
    }

    public function testOtherRolesAreNoControls(): void
    {
        self::assertCount(9, AccountRole::controls());
        self::assertFalse(AccountRole::Bank->isControl());
        self::assertTrue(AccountRole::Bank->mayRepeat());
        self::assertTrue(AccountRole::Payables->mayRepeat(), 'a party may have a control account of its own');
        self::assertFalse(AccountRole::RefundsPayable->mayRepeat());
    }

    /** Any lines, codes and rate: the entry balances in base and in document currency. */
    public function testEveryInvoiceBalances(): void
    {
        mt_srand(16);
        for ($round = 0; $round < 200; ++$round) {
            $side = Side::cases()[mt_rand(0, 1)];
            $codes = [
                new TaxCode(
                    'A',
                    BigDecimal::ofUnscaledValue(825, 2),
                    (bool) mt_rand(0, 1),
                    BigDecimal::of(mt_rand(0, 100)),
                ),
                new TaxCode('B', BigDecimal::of('20'), false, null, true),
                null,
            ];
            $lines = [];
            $meta = [];
            for ($k = 0; $k < 5; ++$k) {
                $lines[$k] = ['amount' => mt_rand(1, 900_000), 'code' => $codes[$k % 3]];
                $meta[$k] = ['account' => 100 + $k, 'text' => '', 'analysis' => new Analysis()];
            }
            $tax = TaxCalculator::compute($lines);
            self::assertSame($tax->total(), $tax->net + $tax->tax);
            $base = InvoiceEntry::base($tax->total(), 'EUR', 'USD', BigDecimal::ofUnscaledValue(mt_rand(1, 30_000), 4));
            $draft = InvoiceEntry::draft(
                $side,
                1,
                self::CONTROL,
                7,
                'x',
                'EUR',
                $meta,
                $tax,
                [
                    'A' => ['input' => self::INPUT, 'output' => self::OUTPUT],
                    'B' => ['input' => self::INPUT, 'output' => self::OUTPUT],
                ],
                $base,
            );
            self::assertSame(0, array_sum(array_map(static fn (DraftLine $l): int => $l->base, $draft->lines)));
            self::assertSame(0, array_sum(array_map(static fn (DraftLine $l): int => $l->amount, $draft->lines)));
            self::assertSame($side->ledgerSign() * $base, $draft->movementOn(self::CONTROL));
        }
    }
}
