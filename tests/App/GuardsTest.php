<?php

declare(strict_types=1);

namespace Nelbix\Tests\App;

use Nelbix\App\Books\AdjustmentRequest;
use Nelbix\App\Books\ChangePosted;
use Nelbix\App\Books\PlacementRequest;
use Nelbix\App\Books\SettleItems;
use Nelbix\App\Books\SettlementRequest;
use Nelbix\App\Books\UndoSettlement;
use Nelbix\App\Import\ImportFile;
use Nelbix\App\Money\Answers;
use Nelbix\App\Money\MoneyInput;
use Nelbix\App\Money\PostMoney;
use Nelbix\App\Parties\SaveParty;
use Nelbix\App\Payables\ChangeProposal;
use Nelbix\App\Payables\CriteriaReader;
use Nelbix\App\Payables\DecideProposal;
use Nelbix\App\Payables\MakeProposal;
use Nelbix\App\Platform\FormKey;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Ledger\DocumentKind;
use Nelbix\Core\Ledger\Side;
use Nelbix\Core\Problem;
use Nelbix\Core\Settlement\AdjustmentKind;
use PHPUnit\Framework\Attributes\DataProvider;

/** What may not be done is refused whichever door it comes through: the use case, a file, the board, without money. */
final class GuardsTest extends ScreenCase
{
    private function import(string $kind, string $csv): string
    {
        $errors = self::get(ImportFile::class)->import($this->clerk, $kind, $csv)['errors'];

        return implode(' ', array_map(static fn (Problem $p): string => $p->message, $errors));
    }

    private function numberOf(int $document): string
    {
        return (string) $this->db()->fetchOne('SELECT number FROM document WHERE id = ?', [$document]);
    }

    /** @return array<string, string> what each door says to a payment of an invoice in full */
    private function payThroughEveryDoor(int $document, int $amount): array
    {
        $item = $this->itemOf($document);
        $decimal = \sprintf('%d.%02d', intdiv($amount, 100), $amount % 100);

        return [
            'use case' => self::said(
                fn () => $this->money(
                    Side::Payables,
                    $amount,
                    [new PlacementRequest($item, $amount)],
                    [],
                    self::DAY,
                    DocumentKind::Payment,
                ),
            ),
            'file' => $this->import(
                'payments',
                "party,date,bank,currency,amount,apply_to,applied\n".
                    \sprintf("V-1,2026-06-15,1000,USD,%s,%s,%s\n", $decimal, $this->numberOf($document), $decimal),
            ),
            'board' => $this->postedOnBoard('payment', [
                'placed' => [$item => $decimal],
                'method' => 'wire',
                'more_than_there' => '1',
            ]),
        ];
    }

    public function testNobodyPaysWhatIsHeldUnapprovedOrStopped(): void
    {
        $held = $this->invoice(Side::Payables, '100.00');
        self::get(ChangePosted::class)->hold($this->clerk, $held, 'damaged');
        foreach ($this->payThroughEveryDoor($held, 10000) as $door => $said) {
            self::assertStringContainsString('is held', $said, $door);
        }
        $big = $this->invoice(Side::Payables, '12000.00');
        foreach ($this->payThroughEveryDoor($big, 1200000) as $door => $said) {
            self::assertStringContainsString('awaits approval', $said, $door);
        }
        self::get(ChangePosted::class)->decide($this->approver, $big, false, 'too dear');
        foreach ($this->payThroughEveryDoor($big, 1200000) as $door => $said) {
            self::assertMatchesRegularExpression('/approval/', $said, $door);
        }
        $free = $this->invoice(Side::Payables, '50.00');
        self::get(SaveParty::class)->save(
            $this->clerk,
            Side::Payables,
            ['name' => 'Fenwick Timber', 'stops' => ['payment' => ['reason' => 'court order', 'ends_on' => '']]],
            (int) $this->db()->fetchOne("SELECT id FROM party WHERE code = 'V-1'"),
        );
        foreach ($this->payThroughEveryDoor($free, 5000) as $door => $said) {
            self::assertStringContainsString('No payment to Fenwick Timber: court order', $said, $door);
        }
        self::assertSame(0, $this->balance('1000'), 'no money moved');
    }

    public function testABoardThatIsOldNamesWhoWasFirst(): void
    {
        $document = $this->invoice(Side::Receivables, '100.00');
        $item = $this->itemOf($document);
        $receipt = $this->money(Side::Receivables, 10000, [new PlacementRequest($item, 10000)]);
        $said = $this->postedOnBoard('receipt', ['amount' => '100', 'placed' => [$item => '100']], 'receivables');
        self::assertStringContainsString($this->numberOf($document).' was settled by', $said);
        self::assertStringContainsString($this->numberOf($receipt), $said);
        self::assertSame(1, (int) $this->db()->fetchOne("SELECT COUNT(*) FROM document WHERE kind = 'receipt'"));
        self::assertStringContainsString(
            'is not there any more',
            $this->postedOnBoard('receipt', ['amount' => '100', 'placed' => ['999999' => '100']], 'receivables'),
        );
    }

    /** rules.md, Payment terms: 1.00 within 2 % earns 0.02; six of them no more. */
    public function testNoDoorGivesMoreDiscountThanTheMoneyEarns(): void
    {
        $document = $this->invoice(Side::Receivables, '5000.00', ['document_date' => '2026-06-10']);
        $item = $this->itemOf($document);
        $much = static fn (int $discount): array => [new AdjustmentRequest($item, AdjustmentKind::Discount, -$discount)];
        self::assertStringContainsString(
            'No discount',
            self::said(
                fn () => $this->money(
                    Side::Receivables,
                    100,
                    [new PlacementRequest($item, 500000)],
                    $much(499900),
                    '2026-06-25',
                ),
            ),
        );
        self::assertStringContainsString(
            'earns at most 100.00',
            self::said(
                fn () => $this->money(Side::Receivables, 100, [new PlacementRequest($item, 500000)], $much(499900)),
            ),
        );
        self::assertStringContainsString(
            'is too much',
            $this->import(
                'receipts',
                "party,date,bank,currency,amount,apply_to,applied,discount\n".
                    \sprintf("C-1,2026-06-15,1000,USD,1.00,%s,5000.00,4999.00\n", $this->numberOf($document)),
            ),
        );
        for ($n = 0; $n < 6; ++$n) {
            self::assertStringContainsString(
                'is too much',
                self::said(
                    fn () => $this->money(Side::Receivables, 100, [new PlacementRequest($item, 2000)], $much(1900)),
                ),
            );
            $this->money(Side::Receivables, 100, [new PlacementRequest($item, 102)], $much(2));
        }
        self::assertSame(500000 - 6 * 102, $this->open($item));
        $credit = $this->itemOf($this->invoice(Side::Receivables, '98.00', ['kind' => 'credit_note']));
        $invoice = $this->itemOf($this->invoice(Side::Receivables, '100.00'));
        self::assertStringContainsString(
            'without money',
            self::said(
                fn () => self::get(SettleItems::class)->settle(
                    $this->clerk,
                    new SettlementRequest(
                        Side::Receivables,
                        [new PlacementRequest($invoice, 10000), new PlacementRequest($credit, -9800)],
                        [new AdjustmentRequest($invoice, AdjustmentKind::Discount, -200)],
                        Day::of(self::DAY),
                    ),
                ),
            ),
            'credits alone earn nothing',
        );
    }

    public function testNoDoorWithholdsMoreThanTheRule(): void
    {
        $document = $this->invoice(Side::Payables, '1000.00', ['terms' => 'N30']);
        $item = $this->itemOf($document);
        $withhold = fn (int $amount, int $tax): string => self::said(
            fn () => $this->money(
                Side::Payables,
                $amount - $tax,
                [new PlacementRequest($item, $amount)],
                [new AdjustmentRequest($item, AdjustmentKind::Withholding, -$tax)],
                self::DAY,
                DocumentKind::Payment,
            ),
        );
        self::assertStringContainsString('No tax is withheld', $withhold(100000, 1));
        $this->db()->executeStatement("UPDATE party SET withholding_percent = 10 WHERE code = 'V-1'");
        self::assertStringContainsString('100.00 is withheld; 100.01 is too much', $withhold(100000, 10001));
        self::assertStringContainsString(
            'is too much',
            $this->import(
                'payments',
                "party,date,bank,currency,amount,apply_to,applied,withholding\n".
                    \sprintf("V-1,2026-06-15,1000,USD,800.00,%s,1000.00,200.00\n", $this->numberOf($document)),
            ),
        );
        // 333.33 and 333.33 withhold 33.33 each; the last part takes the rest, 33.34
        self::assertSame(['done', 'done'], [$withhold(33333, 3333), $withhold(33333, 3333)]);
        self::assertStringContainsString('33.34 is withheld', $withhold(33334, 3335));
        self::assertSame('done', $withhold(33334, 3334));
        self::assertSame(-10000, $this->balance('2250'));
    }

    /** @return iterable<string, array{string, string, int, int}> currency, rate, an amount within the tolerance of 1.00 USD, one over it */
    public static function worths(): iterable
    {
        yield 'JPY at 0.0064' => ['JPY', '0.0064', 157, 158];
        yield 'KWD at 3.25' => ['KWD', '3.25', 309, 310];
        yield 'EUR at 1.10' => ['EUR', '1.10', 91, 92];
    }

    /** Tolerances are amounts of base currency: 158 JPY are 1.01 USD, 0.310 KWD too. Source: rules.md, Settlements. */
    #[DataProvider('worths')]
    public function testASmallDifferenceIsMeasuredByItsWorth(
        string $currency,
        string $rate,
        int $within,
        int $over,
    ): void {
        $this->db()->executeStatement("UPDATE setting SET value = '50' WHERE name = 'tolerance_percent'");
        self::get(\Nelbix\App\Platform\Settings::class)->keep($this->clerk->companyId, ['tolerance_percent' => '50']);
        $document = $this->invoice(Side::Receivables, '100000', [
            'currency' => $currency,
            'rate' => $rate,
            'terms' => 'N30',
        ]);
        $item = $this->itemOf($document);
        $open = $this->open($item);
        $post = fn (int $small): string => self::said(
            fn () => self::get(PostMoney::class)->post(
                $this->clerk,
                new MoneyInput(
                    Side::Receivables,
                    DocumentKind::Receipt,
                    (int) $this->db()->fetchOne("SELECT id FROM party WHERE code = 'C-1'"),
                    (int) $this->db()->fetchOne("SELECT id FROM bank_account WHERE code = '1000'"),
                    Day::of(self::DAY),
                    $currency,
                    $open - $small,
                    placements: [new PlacementRequest($item, $open)],
                    adjustments: [new AdjustmentRequest($item, AdjustmentKind::WriteOff, -$small)],
                    rate: \Brick\Math\BigDecimal::of($rate),
                ),
            ),
        );
        self::assertStringContainsString('over the tolerance of 1.00 USD', $post($over));
        self::assertSame('done', $post($within));
    }

    public function testASmallDifferenceOverTheToleranceIsRefusedWithoutMoneyToo(): void
    {
        $credit = $this->itemOf($this->invoice(Side::Receivables, '95.00', ['kind' => 'credit_note']));
        $invoice = $this->itemOf($this->invoice(Side::Receivables, '100.00'));
        $settle = fn (int $applied, int $small): string => self::said(
            fn () => self::get(SettleItems::class)->settle(
                $this->clerk,
                new SettlementRequest(
                    Side::Receivables,
                    [new PlacementRequest($invoice, $applied), new PlacementRequest($credit, $small - $applied)],
                    [new AdjustmentRequest($invoice, AdjustmentKind::WriteOff, -$small)],
                    Day::of(self::DAY),
                ),
            ),
        );
        self::assertStringContainsString('over the tolerance', $settle(10000, 500));
        self::assertStringContainsString('closes', $settle(5000, 50));
    }

    public function testMoneyThatMayBeThereAlreadyAsksForAReason(): void
    {
        $receipt = ['amount' => '500', 'kind' => 'unapplied'];
        self::assertStringContainsString('Posted', $this->postedOnBoard('receipt', $receipt, 'receivables'));
        self::assertStringContainsString(
            'It looks like RC-26-00001',
            $this->postedOnBoard('receipt', $receipt, 'receivables'),
        );
        self::assertStringContainsString(
            'Posted',
            $this->postedOnBoard(
                'receipt',
                [...$receipt, 'look_alike_reason' => 'two boats, two slips'],
                'receivables',
            ),
        );
        self::assertSame(
            'two boats, two slips',
            $this->db()->fetchOne("SELECT detail FROM history WHERE action = 'not the one it looks like'"),
        );
        $row = "C-1,2026-06-15,1000,%s,USD,500.00\n";
        $file = "party,date,bank,number,currency,amount\n".\sprintf($row, 'A').\sprintf($row, 'B');
        self::assertStringContainsString('It looks like RC-26-00002', $this->import('receipts', $file));
        $answered =
            "party,date,bank,number,currency,amount,look_alike_reason\n".
            "C-1,2026-06-15,1000,A,USD,500.00,slip 3\nC-1,2026-06-15,1000,B,USD,500.00,slip 4\n";
        self::assertSame('', $this->import('receipts', $answered));
        self::assertSame(
            4,
            (int) $this->db()->fetchOne("SELECT COUNT(*) FROM document WHERE kind = 'receipt'"),
            'two rows alike but for their number are two receipts',
        );
        $meant = ['more_than_there' => '1', 'more_than_owed' => '1'];
        $wire = [...$meant, 'amount' => '20', 'method' => 'wire', 'kind' => 'unapplied'];
        self::assertStringContainsString('Posted', $this->postedOnBoard('payment', $wire));
        self::assertStringContainsString('It looks like PY-26-00001', $this->postedOnBoard('payment', $wire));
    }

    /** A vendor who is owed 100.00 is paid twice as much without a question, and a cent more with one; a prepayment by name is meant. */
    public function testPayingFarMoreThanIsOwedAsksOnce(): void
    {
        $this->invoice(Side::Payables, '100.00');
        $pay = ['amount' => '200.01', 'method' => 'wire', 'kind' => 'unapplied', 'more_than_there' => '1'];
        self::assertStringContainsString(
            '200.01 USD is paid where 100.00 is owed',
            $this->postedOnBoard('payment', $pay),
        );
        self::assertStringContainsString('Posted', $this->postedOnBoard('payment', [...$pay, 'amount' => '200.00']));
        // now the vendor owes: whatever goes to it is more than is owed
        self::assertStringContainsString(
            'paid where nothing is owed',
            $this->postedOnBoard('payment', [...$pay, 'amount' => '1']),
        );
        self::assertStringContainsString(
            'Posted',
            $this->postedOnBoard('payment', [...$pay, 'amount' => '1', 'more_than_owed' => '1']),
        );
        self::assertStringContainsString(
            'Posted',
            $this->postedOnBoard('payment', [...$pay, 'amount' => '2', 'kind' => 'prepayment']),
        );
    }

    public function testPayingMoreThanTheBankHoldsAsksOnceAndAFarDayToo(): void
    {
        $pay = ['amount' => '350.01', 'method' => 'wire', 'kind' => 'unapplied', 'more_than_owed' => '1'];
        $this->money(Side::Receivables, 35000, []);
        self::assertStringContainsString('holds 350.00 USD', $this->postedOnBoard('payment', $pay));
        self::assertStringContainsString('Posted', $this->postedOnBoard('payment', [...$pay, 'amount' => '350.00']));
        self::assertStringContainsString(
            'Posted',
            $this->postedOnBoard('payment', [...$pay, 'more_than_there' => '1']),
        );
        $far = ['amount' => '7', 'date' => '2026-08-15', 'kind' => 'unapplied'];
        self::assertStringContainsString('is far from today', $this->postedOnBoard('receipt', $far, 'receivables'));
        self::assertStringContainsString(
            'Posted',
            $this->postedOnBoard('receipt', [...$far, 'day_meant' => '1'], 'receivables'),
        );
    }

    public function testMoneyOfAnotherCurrencyNeedsTheRateOfItsAccount(): void
    {
        $this->db()->executeStatement("UPDATE bank_account SET currency = 'EUR' WHERE code = '1000'");
        self::get(\Doctrine\ORM\EntityManagerInterface::class)->clear();
        self::assertStringContainsString(
            'There is no rate from EUR to USD',
            self::said(fn () => $this->money(Side::Receivables, 1000, [])),
        );
    }

    /** A form sent four times makes one document; the answer is the same each time. */
    public function testTheSameFormMakesOneDocument(): void
    {
        $input = new MoneyInput(
            Side::Receivables,
            DocumentKind::Receipt,
            (int) $this->db()->fetchOne("SELECT id FROM party WHERE code = 'C-1'"),
            (int) $this->db()->fetchOne("SELECT id FROM bank_account WHERE code = '1000'"),
            Day::of(self::DAY),
            'USD',
            1000,
            answers: new Answers('again'),
        );
        $ids = [];
        for ($n = 0; $n < 4; ++$n) {
            $ids[] = self::get(PostMoney::class)->post($this->clerk, $input, new FormKey('one and the same key', ''));
        }
        self::assertSame([$ids[0]], array_values(array_unique($ids)));
        self::assertNotSame(
            $ids[0],
            self::get(PostMoney::class)->post($this->clerk, $input, new FormKey('another key', '')),
        );
    }

    /** 2/10 on 1,000.00 earns 20.00, and on a part of 500.00 by half of that: not a cent more. */
    public function testACentOverTheDiscountIsTooMuch(): void
    {
        $item = $this->itemOf($this->invoice(Side::Receivables, '1000.00', ['terms' => '2-10-N30']));
        $take = fn (int $gross, int $discount): string => self::said(
            fn () => $this->money(
                Side::Receivables,
                $gross - $discount,
                [new PlacementRequest($item, $gross)],
                [new AdjustmentRequest($item, AdjustmentKind::Discount, -$discount)],
            ),
        );
        self::assertStringContainsString('earns at most 20.00 discount', $take(100000, 2001));
        self::assertStringContainsString('earns at most 10.00 discount', $take(50000, 1001));
        self::assertSame(['done', 'done'], [$take(50000, 1000), $take(50000, 1000)]);
    }

    /** What a run has reserved is not opened further under it. */
    public function testNothingIsUndoneUnderARun(): void
    {
        $item = $this->itemOf(
            $this->invoice(Side::Payables, '100.00', ['document_date' => '2026-04-01', 'terms' => 'N30']),
        );
        $this->money(Side::Payables, 4000, [new PlacementRequest($item, 4000)], [], self::DAY, DocumentKind::Payment);
        $settlement = (int) $this->db()->fetchOne('SELECT MAX(id) FROM settlement');
        $run = $this->proposed();
        $undo = fn (): string => self::said(fn () => self::get(UndoSettlement::class)->undo($this->clerk, $settlement));
        self::assertMatchesRegularExpression(
            '/is reserved by payment proposal PP-26-\d+; drop it there first/',
            $undo(),
        );
        self::assertSame(6000, $this->open($item));
        self::get(ChangeProposal::class)->dropAll($this->clerk, $run);
        self::assertSame('done', $undo());
        self::assertSame(10000, $this->open($item));
    }

    /** Persons are compared, not roles: whoever dropped a line does not approve the rest. */
    public function testWhoHadAHandInARunDoesNotApproveIt(): void
    {
        $first = $this->itemOf(
            $this->invoice(Side::Payables, '100.00', ['document_date' => '2026-04-01', 'terms' => 'N30']),
        );
        $this->invoice(Side::Payables, '60.00', ['document_date' => '2026-04-01', 'terms' => 'N30']);
        $run = $this->proposed();
        self::get(ChangeProposal::class)->change($this->approver, $run, [$first], true);
        $approve = fn (): string => self::said(
            fn () => self::get(DecideProposal::class)->decide($this->approver, $run, true),
        );
        self::assertStringContainsString('Somebody else must approve this proposal', $approve());
        $this->db()->executeStatement('DELETE FROM hand_in');
        self::assertSame('done', $approve());
    }

    /** A run of exactly the limit is within it; a person with two roles is bound by the lower one. */
    public function testTheLimitOfAnApprover(): void
    {
        $this->invoice(Side::Payables, '100.00', ['document_date' => '2026-04-01', 'terms' => 'N30']);
        $run = $this->proposed();
        $company = $this->clerk->companyId;
        $limit = fn (int $minor): int|string => $this->db()->executeStatement(
            "UPDATE membership SET approval_limit = ? WHERE company_id = ? AND user_id = ? AND role = 'approver'",
            [$minor, $company, $this->approver->userId],
        );
        $this->db()->executeStatement(
            "INSERT INTO membership (user_id, company_id, role, approval_limit) VALUES (?, ?, 'auditor', 99999)",
            [$this->approver->userId, $company],
        );
        $approve = fn (): string => self::said(
            fn () => self::get(DecideProposal::class)->decide($this->approver, $run, true),
        );
        $limit(9999);
        self::assertStringContainsString('The run comes to 100.00 USD, you may approve up to 99.99', $approve());
        $limit(10000);
        self::assertSame('done', $approve());
    }

    /** 100.00 EUR at 1.10 are 110.00 USD, and the limit is in dollars. */
    public function testALimitIsComparedInBaseCurrency(): void
    {
        $this->db()->executeStatement(
            <<<'SQL'
            INSERT INTO exchange_rate (company_id, valid_on, from_currency, to_currency, rate)
            VALUES (?, '2026-04-01', 'EUR', 'USD', 1.10)
            SQL
            ,
            [$this->clerk->companyId],
        );
        $this->invoice(Side::Payables, '100.00', [
            'document_date' => '2026-04-01',
            'terms' => 'N30',
            'currency' => 'EUR',
        ]);
        $run = $this->proposed(['currency' => 'EUR']);
        $this->db()->executeStatement("UPDATE membership SET approval_limit = 10999 WHERE role = 'approver'");
        self::assertStringContainsString(
            'The run comes to 110.00 USD',
            self::said(fn () => self::get(DecideProposal::class)->decide($this->approver, $run, true)),
        );
    }

    /** The id of an item is no key to another company's books. */
    public function testItemsOfAnotherCompanyAreNotThere(): void
    {
        $theirs = $this->itemOf($this->invoice(Side::Receivables, '100.00'));
        $this->makeCompany('OTHER');
        self::assertStringContainsString(
            'An item was not found in this company',
            self::said(fn () => $this->money(Side::Receivables, 10000, [new PlacementRequest($theirs, 10000)])),
        );
        self::assertSame(10000, $this->open($theirs));
    }

    /** An invoice of exactly the amount of the setting needs nobody. */
    public function testExactlyAtTheAmountAnInvoiceNeedsNoApproval(): void
    {
        $approval = fn (string $amount): string => (string) $this->db()->fetchOne(
            'SELECT approval FROM document WHERE id = ?',
            [$this->invoice(Side::Payables, $amount)],
        );
        self::assertSame(['none', 'awaiting'], [$approval('10000.00'), $approval('10000.01')]);
    }

    /**
     * @param array<string, string> $asked
     *
     * @return int a proposal of all that is due
     */
    private function proposed(array $asked = []): int
    {
        ['criteria' => $criteria, 'bankAccountId' => $bank, 'method' => $method] = self::get(
            CriteriaReader::class,
        )->read($this->clerk, $asked);

        return self::get(MakeProposal::class)->make($this->clerk, $criteria, $bank, $method);
    }
}
