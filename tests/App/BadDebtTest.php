<?php

declare(strict_types=1);

namespace Nelbix\Tests\App;

use Doctrine\ORM\EntityManagerInterface;
use Nelbix\App\Books\UndoSettlement;
use Nelbix\App\Codes\CodeBook;
use Nelbix\App\Ledger\Chart;
use Nelbix\App\Money\WriteOff;
use Nelbix\App\Platform\Settings;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Ledger\AccountRole;
use Nelbix\Core\Ledger\Side;
use Nelbix\Core\Settlement\AdjustmentKind;

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
        self::assertStringContainsString('more than the 50.00', $recover('120.01', 'a'));
        self::assertStringContainsString('Posted', $recover('100', 'b'), 'no limit on what was written off');
        self::assertStringContainsString('more than the 50.00', $recover('70', 'c'), 'nor twice');
        self::assertSame(-10000, $this->balance('4800'));
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
        self::assertStringContainsString('Say why', $said);
        $this->postedOnBoard(
            'receipt',
            ['amount' => '80', 'kind' => 'recovered', 'kind_reason' => 'estate paid', '_key' => 'b'],
            'receivables',
        );
        self::assertSame([-8000, 8000, 0], array_map($this->balance(...), ['4800', '1000', '1200']));
    }
}
