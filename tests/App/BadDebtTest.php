<?php

declare(strict_types=1);

namespace Nelbix\Tests\App;

use Doctrine\ORM\EntityManagerInterface;
use Nelbix\App\Books\HowTakenBack;
use Nelbix\App\Books\ReverseDocument;
use Nelbix\App\Books\UndoSettlement;
use Nelbix\App\Codes\CodeBook;
use Nelbix\App\Ledger\Chart;
use Nelbix\App\Money\WriteOff;
use Nelbix\App\Platform\Settings;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Ledger\AccountRole;
use Nelbix\Core\Ledger\Side;
use Nelbix\Core\Settlement\AdjustmentKind;
use PHPUnit\Framework\Attributes\DataProvider;

/** Bad debts: tax that the code corrects, the allowance, and money that comes after all. Source: rules.md, Journal entries. */
final class BadDebtTest extends ScreenCase
{
    protected function setUp(): void
    {
        parent::setUp();
        self::get(Settings::class)->keep($this->clerk->companyId, ['write_off_approval_above' => '5000.00']);
        // 20 % as in the worked examples of rules.md, Payment terms
        $this->db()->executeStatement("UPDATE tax_code SET rate = 20, bad_debt_corrects_tax = 1 WHERE code = 'S8'");
        self::get(EntityManagerInterface::class)->clear();
        self::get(CodeBook::class)->reset();
    }

    private function item(string $net, string $code = 'S8'): int
    {
        return $this->itemOf(
            $this->invoice(Side::Receivables, $net, [
                'terms' => 'N30',
                'lines' => [['account' => '4000', 'amount' => $net, 'tax_code' => $code]],
            ]),
        );
    }

    private function writeOff(int $item, int $amount, ?int $account = null): int
    {
        return (int) self::get(WriteOff::class)->write(
            $this->clerk,
            [$item => $amount],
            AdjustmentKind::BadDebt,
            $account,
            Day::of(self::DAY),
            'the business closed',
        )['settlement'];
    }

    /** @return list<int> bad debt expense, allowance, output tax, receivables */
    private function balances(): array
    {
        return array_map($this->balance(...), ['6900', '1245', '2200', '1200']);
    }

    public function testTheTaxInItIsTakenBackWhereTheCodeSaysSo(): void
    {
        $item = $this->item('1000.00');
        self::assertSame([0, 0, -20000, 120000], $this->balances());
        // 600.00 of 1,200.00: half the net and half the tax
        $first = $this->writeOff($item, 60000);
        self::assertSame([50000, 0, -10000, 60000], $this->balances());
        $this->writeOff($item, 60000);
        self::assertSame([100000, 0, 0, 0], $this->balances(), 'all of it takes all of the tax');
        self::get(UndoSettlement::class)->undo($this->clerk, $first);
        self::assertSame([50000, 0, -10000, 60000], $this->balances());
    }

    public function testNothingIsTakenBackWhereItDoesNot(): void
    {
        $this->db()->executeStatement(
            "UPDATE tax_code SET bad_debt_corrects_tax = 0, discount_corrects_tax = 1 WHERE code = 'S8'",
        );
        $this->writeOff($this->item('1000.00'), 120000);
        self::assertSame([120000, 0, -20000, 0], $this->balances());
    }

    public function testTheAllowanceBearsItWhenThatIsSaid(): void
    {
        $allowance = self::get(Chart::class)->role($this->clerk->companyId, AccountRole::BadDebtAllowance);
        $this->writeOff($this->item('1000.00'), 120000, $allowance);
        self::assertSame([0, 100000, 0, 0], $this->balances());
    }

    public function testABadDebtGoesToItsOwnAccountsOnlyAndNothingElseToThem(): void
    {
        $item = $this->item('100.00');
        $other = self::get(Chart::class)->postable($this->clerk->companyId, '6400', 'account');
        self::assertStringContainsString(
            'takes no bad debts',
            self::said(fn () => $this->writeOff($item, 1000, $other)),
        );
        $said = self::said(
            fn () => $this->invoice(Side::Receivables, '10.00', [
                'kind' => 'credit_note',
                'lines' => [['account' => '1245', 'amount' => '10.00']],
            ]),
        );
        self::assertStringContainsString('Account 1245 Allowance for bad debts takes bad debts', $said);
    }

    public function testOnTheBoardAndFromTheItem(): void
    {
        $item = $this->item('100.00');
        $this->postedOnBoard(
            'receipt',
            [
                'amount' => '60',
                'placed' => [$item => '60'],
                'rest' => [$item => 'allowance'],
                'rest_reason' => [$item => 'closed'],
                '_key' => 'a',
            ],
            'receivables',
        );
        self::assertSame([0, 5000, -1000, 0], $this->balances());
        $second = $this->item('50.00');
        $path = "/TEST/receivables/item/$second/write-off";
        self::assertStringContainsString('1245 Allowance for bad debts', $this->page($path)->filter('#to')->text());
        $this->post($path, $path, ['amount' => '60', 'to' => 'allowance', 'reason' => 'closed too', '_key' => 'b']);
        self::assertSame([0, 10000, -1000, 0], $this->balances());
    }

    public function testNoMoreIsRecoveredThanWasWrittenOff(): void
    {
        $this->writeOff($this->item('100.00'), 12000);
        self::get(Settings::class)->keep($this->clerk->companyId, ['write_off_approval_above' => '50.00']);
        $recover = fn (string $amount, string $key): string => $this->postedOnBoard(
            'receipt',
            [
                'amount' => $amount,
                'kind' => 'recovered',
                'kind_reason' => 'estate paid',
                'look_alike_reason' => 'another',
                '_key' => $key,
            ],
            'receivables',
        );
        self::assertStringContainsString(
            '120.00 USD is not recovered, and 120.01 is left over',
            $recover('120.01', 'a'),
        );
        self::assertStringContainsString('Posted', $recover('100', 'b'), 'no limit on what was written off');
        self::assertStringContainsString(
            '20.00 USD is not recovered, and 70.00 is left over',
            $recover('70', 'c'),
            'nor twice',
        );
        // 83.33 and its tax of 16.67
        self::assertSame([-8333, -1667], [$this->balance('4800'), $this->balance('2200')]);
    }

    public function testWhatComesAfterAllIsRecovered(): void
    {
        $this->writeOff($this->item('100.00'), 12000);
        $live = $this->post('/TEST/receivables/receipt?party=C-1', '/TEST/receivables/receipt/live', [
            'party' => 'C-1',
            'date' => '.',
            'bank' => '1000',
            'amount' => '80',
        ]);
        self::assertStringContainsString('120.00 USD of theirs were written off', $live->filter('.shelf')->text());
        $said = $this->postedOnBoard(
            'receipt',
            ['amount' => '80', 'kind' => 'recovered', '_key' => 'a'],
            'receivables',
        );
        self::assertStringContainsString('Say what it came from', $said);
        $this->postedOnBoard(
            'receipt',
            ['amount' => '80', 'kind' => 'recovered', 'kind_reason' => 'estate paid', '_key' => 'b'],
            'receivables',
        );
        self::assertSame(
            [-6667, -1333, 8000, 0],
            array_map($this->balance(...), ['4800', '2200', '1000', '1200']),
            'its tax is owed again',
        );
        self::assertStringContainsString(
            'Written off 120.00 USD, recovered 80.00 USD.',
            $this->page('/TEST/receivables/party/'.$this->db()->fetchOne("SELECT id FROM party WHERE code = 'C-1'"))
                ->filter('.written-off')
                ->text(),
        );
    }

    /** @param array<string, string> $more */
    private function recover(string $amount, array $more = []): string
    {
        return $this->postedOnBoard(
            'receipt',
            [
                'amount' => $amount,
                'kind' => 'recovered',
                'kind_reason' => 'estate paid',
                'look_alike_reason' => 'another',
                '_key' => $amount,
                ...$more,
            ],
            'receivables',
        );
    }

    /** rules.md: 36.00 at 20 %: written off 6900 30.00, output tax 6.00; recovered 12.00: 10.00 and 2.00; the last part takes the rest. */
    public function testInPartsItsTaxIsOwedInParts(): void
    {
        $this->writeOff($this->item('30.00'), 3600);
        self::assertSame([3000, 0, 0, 0], $this->balances());
        $this->recover('12.00');
        self::assertSame([-1000, -200], [$this->balance('4800'), $this->balance('2200')]);
        $this->recover('0.01');
        $this->recover('23.99');
        self::assertSame([-3000, -600], [$this->balance('4800'), $this->balance('2200')]);
        self::assertStringContainsString('Nothing of this customer was written off', $this->recover('1.00'));
    }

    /** The write-off stands as long as a recovery of it does; taken back, it goes both ways. */
    public function testAWriteOffIsNotUndoneBeforeItsRecovery(): void
    {
        $off = $this->writeOff($this->item('30.00'), 3600);
        $this->recover('12.00');
        $receipt = (int) $this->db()->fetchOne("SELECT MAX(id) FROM document WHERE kind = 'receipt'");
        $undo = fn (): string => self::said(fn () => self::get(UndoSettlement::class)->undo($this->clerk, $off));
        self::assertStringContainsString('was recovered by RC-26-', $undo());
        $reverse = self::get(ReverseDocument::class);
        self::assertStringContainsString(
            'is settled with an account; undo that settlement first',
            self::said(fn () => $reverse->reverse($this->clerk, $receipt, 'not theirs')),
        );
        $reverse->event($this->clerk, $receipt, Day::of(self::DAY), HowTakenBack::Bounced, 'not theirs');
        self::assertSame([0, 0], [$this->balance('4800'), $this->balance('2200')]);
        self::assertSame('done', $undo());
        self::assertSame([0, 0, -600, 3600], $this->balances());
    }

    /** @return iterable<string, array{string, list<int>}> the setting, and what recoveries and the allowance hold */
    public static function places(): iterable
    {
        // two debts of 36.00, the first borne by the allowance, the second by the expense; 48.00 come
        yield 'recoveries' => ['recovered', [-4000, 3000]];
        yield 'back where it came from' => ['allowance', [-1000, 0]];
    }

    /** @param list<int> $expected */
    #[DataProvider('places')]
    public function testSeveralDebtsAreRecoveredByOneReceipt(string $setting, array $expected): void
    {
        self::get(Settings::class)->keep($this->clerk->companyId, [
            'recoveries' => $setting,
            'write_off_approval_above' => '5000.00',
        ]);
        $allowance = self::get(Chart::class)->role($this->clerk->companyId, AccountRole::BadDebtAllowance);
        $this->writeOff($this->item('30.00'), 3600, $allowance);
        $this->writeOff($this->item('30.00'), 3600);
        $this->recover('48.00');
        self::assertSame($expected, [$this->balance('4800'), $this->balance('1245')]);
        self::assertSame(-800, $this->balance('2200'));
    }

    public function testTheDebtThatIsNamedComesFirst(): void
    {
        $this->writeOff($this->item('30.00'), 3600);
        $second = $this->item('30.00');
        $this->writeOff($second, 3600);
        $named = (string) $this->db()->fetchOne('SELECT id FROM settlement_adjustment WHERE item_id = ?', [$second]);
        $this->recover('12.00', ['kind_debt' => $named]);
        self::assertSame(
            [[(int) $named, 1200]],
            array_map(
                static fn (array $r): array => array_map(intval(...), $r),
                $this->db()->fetchAllNumeric(
                    'SELECT recovers_id, amount FROM settlement_adjustment WHERE recovers_id IS NOT NULL',
                ),
            ),
        );
    }

    public function testTheAccountOfRecoveriesTakesNothingElse(): void
    {
        $this->writeOff($this->item('30.00'), 3600);
        $said = $this->recover('12.00', ['kind' => 'account', 'kind_account' => '4800']);
        self::assertStringContainsString('say on the receipt that it is for a debt written off before', $said);
    }

    public function testTheEntryOfAWriteOffNamesDocumentAndReason(): void
    {
        $item = $this->item('30.00');
        $this->writeOff($item, 3600);
        self::assertSame(
            'Bad debt of '.
                $this->db()->fetchOne('SELECT number FROM open_item WHERE id = ?', [$item]).
                ': the business closed',
            $this->db()->fetchOne("SELECT text FROM journal_entry WHERE source_kind = 'settlement'"),
        );
    }
}
