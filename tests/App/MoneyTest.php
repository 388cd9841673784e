<?php

declare(strict_types=1);

namespace Nelbix\Tests\App;

use Nelbix\App\Books\AdjustmentRequest;
use Nelbix\App\Books\HowTakenBack;
use Nelbix\App\Books\ItemFilter;
use Nelbix\App\Books\OpenItemsQuery;
use Nelbix\App\Books\PlacementRequest;
use Nelbix\App\Books\ReverseDocument;
use Nelbix\App\Books\SettlementBook;
use Nelbix\App\Books\SettlementRequest;
use Nelbix\App\Books\UndoSettlement;
use Nelbix\App\Parties\SaveParty;
use Nelbix\App\Platform\Transaction;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Ledger\DocumentKind;
use Nelbix\Core\Ledger\Side;
use Nelbix\Core\Settlement\AdjustmentKind;
use PHPUnit\Framework\Attributes\DataProvider;

/** Money on both sides goes through one engine: each case is played for payables and for receivables. */
final class MoneyTest extends AppCase
{
    /** @return iterable<string, array{Side, DocumentKind, string, string, int}> side, kind, control, discount account, sign of the bank */
    public static function sides(): iterable
    {
        yield 'payables' => [Side::Payables, DocumentKind::Payment, '2100', '5900', -1];
        yield 'receivables' => [Side::Receivables, DocumentKind::Receipt, '1200', '4900', 1];
    }

    #[DataProvider('sides')]
    public function testFullPaymentWithDiscount(
        Side $side,
        DocumentKind $kind,
        string $control,
        string $discount,
        int $sign,
    ): void {
        $item = $this->itemOf($this->invoice($side, '1000.00'));
        $this->money(
            $side,
            98000,
            [new PlacementRequest($item, 100000)],
            [new AdjustmentRequest($item, AdjustmentKind::Discount, -2000)],
            self::DAY,
            $kind,
        );
        self::assertSame(
            [0, $sign * 98000, $sign * 2000, 0],
            [$this->open($item), $this->balance('1000'), $this->balance($discount), $this->balance($control)],
        );
    }

    #[DataProvider('sides')]
    public function testPartPaymentThenTheRest(
        Side $side,
        DocumentKind $kind,
        string $control,
        string $discount,
        int $sign,
    ): void {
        $item = $this->itemOf($this->invoice($side, '1000.00'));
        $this->money($side, 30000, [new PlacementRequest($item, 30000)], [], '2026-06-12', $kind);
        self::assertSame([70000, $sign * 70000], [$this->open($item), $this->balance($control)]);
        $this->money($side, 70000, [new PlacementRequest($item, 70000)], [], self::DAY, $kind);
        self::assertSame([0, 0], [$this->open($item), $this->balance($control)]);
        self::assertSame(
            ['applied'],
            self::refusedFields(fn () => $this->money($side, 1, [new PlacementRequest($item, 1)], [], self::DAY, $kind)),
            'nothing is paid twice',
        );
    }

    #[DataProvider('sides')]
    public function testUnappliedMoneyIsSettledLater(
        Side $side,
        DocumentKind $kind,
        string $control,
        string $discount,
        int $sign,
    ): void {
        $money = $this->itemOf($this->money($side, 50000, [], [], '2026-06-11', $kind));
        self::assertSame([-50000, -$sign * 50000], [$this->open($money), $this->balance($control)]);
        $item = $this->itemOf($this->invoice($side, '300.00'));
        $settle = fn (int $applied, string $day) => self::get(Transaction::class)->run(
            fn () => self::get(SettlementBook::class)->settle(
                $this->clerk,
                new SettlementRequest(
                    $side,
                    [new PlacementRequest($item, $applied), new PlacementRequest($money, -$applied)],
                    [],
                    Day::of($day),
                ),
            ),
        );
        self::assertSame(
            ['date'],
            self::refusedFields(fn () => $settle(30000, '2026-06-10')),
            'not before the money came',
        );
        $settlement = $settle(30000, self::DAY);
        self::assertSame([0, -20000], [$this->open($item), $this->open($money)]);
        self::assertSame(
            0,
            (int) $this->db()->fetchOne("SELECT COUNT(*) FROM journal_entry WHERE source_kind = 'settlement'"),
            'nothing to post within one account',
        );
        self::get(UndoSettlement::class)->undo($this->clerk, $settlement);
        self::assertSame([30000, -50000], [$this->open($item), $this->open($money)]);
    }

    #[DataProvider('sides')]
    public function testCreditNoteUsedWithMoney(
        Side $side,
        DocumentKind $kind,
        string $control,
        string $discount,
        int $sign,
    ): void {
        $item = $this->itemOf($this->invoice($side, '1000.00', ['terms' => 'N30']));
        $credit = $this->itemOf(
            $this->invoice($side, '200.00', [
                'kind' => 'credit_note',
                'number' => Side::Payables === $side ? 'CN' : '',
            ]),
        );
        self::assertSame(-20000, $this->open($credit));
        $this->money(
            $side,
            80000,
            [new PlacementRequest($item, 100000), new PlacementRequest($credit, -20000)],
            [],
            self::DAY,
            $kind,
        );
        self::assertSame(
            [0, 0, 0, $sign * 80000],
            [$this->open($item), $this->open($credit), $this->balance($control), $this->balance('1000')],
        );
    }

    #[DataProvider('sides')]
    public function testTheEventOnItsOwnDay(
        Side $side,
        DocumentKind $kind,
        string $control,
        string $discount,
        int $sign,
    ): void {
        $item = $this->itemOf($this->invoice($side, '1000.00'));
        $document = $this->money(
            $side,
            98000,
            [new PlacementRequest($item, 100000)],
            [new AdjustmentRequest($item, AdjustmentKind::Discount, -2000)],
            '2026-06-12',
            $kind,
        );
        self::get(ReverseDocument::class)->event(
            $this->clerk,
            $document,
            Day::of('2026-06-17'),
            HowTakenBack::Voided,
            'lost',
        );
        self::assertSame(
            [100000, 0, 0, $sign * 100000],
            [$this->open($item), $this->balance('1000'), $this->balance($discount), $this->balance($control)],
        );
        self::assertSame(
            [''],
            self::refusedFields(
                fn () => self::get(ReverseDocument::class)->event(
                    $this->clerk,
                    $document,
                    Day::of('2026-06-18'),
                    HowTakenBack::Voided,
                    'again',
                ),
            ),
        );
        // as things stood on the day before, it was paid
        $asOf = self::get(OpenItemsQuery::class)->page(
            new ItemFilter($this->clerk->companyId, $side, Day::of('2026-06-16')),
        );
        self::assertSame([], $asOf['rows']);
    }

    #[DataProvider('sides')]
    public function testItemsOfOthersAreRefused(
        Side $side,
        DocumentKind $kind,
        string $control,
        string $discount,
        int $sign,
    ): void {
        self::get(SaveParty::class)->save($this->clerk, $side, [
            'code' => 'OTHER',
            'name' => 'Corrie Bronze',
            'default_account' => '5000',
        ]);
        $other = $this->itemOf($this->invoice($side, '10.00', ['party' => 'OTHER']));
        if (Side::Payables === $side) {
            // one receipt is placed for several customers; a payment goes to one vendor
            self::assertSame(
                ['items'],
                self::refusedFields(
                    fn () => $this->money($side, 1000, [new PlacementRequest($other, 1000)], [], self::DAY, $kind),
                ),
            );
        }
        $wrongSide = $this->itemOf(
            $this->invoice(Side::Payables === $side ? Side::Receivables : Side::Payables, '10.00'),
        );
        self::assertSame(
            ['items'],
            self::refusedFields(
                fn () => $this->money($side, 1000, [new PlacementRequest($wrongSide, 1000)], [], self::DAY, $kind),
            ),
        );
        self::assertSame(
            ['items'],
            self::refusedFields(
                fn () => $this->money($side, 1000, [new PlacementRequest(999_999_999, 1000)], [], self::DAY, $kind),
            ),
        );
        self::assertSame(0, $this->balance('1000'), 'nothing is half saved');
    }

    #[DataProvider('sides')]
    public function testAmountsThatCannotBe(
        Side $side,
        DocumentKind $kind,
        string $control,
        string $discount,
        int $sign,
    ): void {
        $item = $this->itemOf($this->invoice($side, '100.00'));
        self::assertSame(['amount'], self::refusedFields(fn () => $this->money($side, 0, [], [], self::DAY, $kind)));
        self::assertSame(
            ['amount'],
            self::refusedFields(
                fn () => $this->money($side, 5000, [new PlacementRequest($item, 6000)], [], self::DAY, $kind),
            ),
        );
        self::assertSame(
            ['applied'],
            self::refusedFields(
                fn () => $this->money($side, 20000, [new PlacementRequest($item, 10001)], [], self::DAY, $kind),
            ),
        );
        self::assertSame(
            ['adjustments'],
            self::refusedFields(
                fn () => $this->money(
                    $side,
                    10010,
                    [new PlacementRequest($item, 10000)],
                    [new AdjustmentRequest($item, AdjustmentKind::Discount, 10)],
                    self::DAY,
                    $kind,
                ),
            ),
        );
        self::assertSame(
            ['posting_date'],
            self::refusedFields(fn () => $this->money($side, 100, [], [], '2031-01-01', $kind)),
            'no period',
        );
        self::assertSame([10000, 0], [$this->open($item), $this->balance('1000')]);
    }

    public function testReversalGoesToTheFirstOpenDayWhenItsPeriodIsLocked(): void
    {
        $id = $this->invoice(Side::Payables, '10.00', ['document_date' => '2026-05-20']);
        $this->db()->executeStatement("UPDATE period SET payables_locked = 1 WHERE first_day = '2026-05-01'");
        $reversal = self::get(ReverseDocument::class)->reverse($this->clerk, $id, 'wrong vendor');
        self::assertSame(
            '2026-06-01',
            $this->db()->fetchOne('SELECT posting_date FROM document WHERE id = ?', [$reversal]),
        );
        self::assertSame('2026-06-01', $this->db()->fetchOne('SELECT MAX(posting_date) FROM journal_entry'));
        self::assertSame(0, $this->balance('2100'));
    }

    public function testWithholdingGoesToItsOwnAccount(): void
    {
        // rules.md: 1,000.00 + 200.00, 2 % discount 24.00, 10 %: withheld 98.00, paid 1,078.00
        $this->db()->executeStatement('UPDATE party SET withholding_percent = 10');
        $item = $this->itemOf($this->invoice(Side::Payables, '1200.00'));
        $this->money(
            Side::Payables,
            107800,
            [new PlacementRequest($item, 120000)],
            [
                new AdjustmentRequest($item, AdjustmentKind::Discount, -2400),
                new AdjustmentRequest($item, AdjustmentKind::Withholding, -9800),
            ],
            self::DAY,
            DocumentKind::Payment,
        );
        self::assertSame(
            [0, -107800, -2400, -9800, 0],
            [
                $this->open($item),
                $this->balance('1000'),
                $this->balance('5900'),
                $this->balance('2250'),
                $this->balance('2100'),
            ],
        );
    }

    public function testDocumentWithZeroTotalHasNoItem(): void
    {
        $id = $this->invoice(Side::Payables, '50.00', [
            'lines' => [['account' => '5000', 'amount' => '50.00'], ['account' => '5200', 'amount' => '-50.00']],
        ]);
        self::assertSame(0, (int) $this->db()->fetchOne('SELECT COUNT(*) FROM open_item WHERE document_id = ?', [$id]));
        self::assertSame([5000, -5000], [$this->balance('5000'), $this->balance('5200')]);
    }

    public function testNumbersStayGaplessWhenPostingFails(): void
    {
        $item = $this->itemOf($this->invoice(Side::Receivables, '10.00'));
        self::refusedFields(fn () => $this->money(Side::Receivables, 5000, [new PlacementRequest($item, 5000)]));
        $receipt = $this->money(Side::Receivables, 1000, [new PlacementRequest($item, 1000)]);
        self::assertSame('RC-26-00001', $this->db()->fetchOne('SELECT number FROM document WHERE id = ?', [$receipt]));
        self::assertSame(
            ['JE-26-00001', 'JE-26-00002'],
            $this->db()->fetchFirstColumn('SELECT number FROM journal_entry ORDER BY id'),
        );
    }
}
