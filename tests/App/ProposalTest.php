<?php

declare(strict_types=1);

namespace Nelbix\Tests\App;

use Nelbix\App\Banking\PrintChecks;
use Nelbix\App\Books\AdjustmentRequest;
use Nelbix\App\Books\ChangePosted;
use Nelbix\App\Books\HowTakenBack;
use Nelbix\App\Books\LapsedDiscount;
use Nelbix\App\Books\PlacementRequest;
use Nelbix\App\Books\ReverseDocument;
use Nelbix\App\Parties\SaveParty;
use Nelbix\App\Payables\AcceptChanges;
use Nelbix\App\Payables\ChangeLine;
use Nelbix\App\Payables\ChangePayment;
use Nelbix\App\Payables\ChangeProposal;
use Nelbix\App\Payables\Comparison;
use Nelbix\App\Payables\CriteriaReader;
use Nelbix\App\Payables\DecideProposal;
use Nelbix\App\Payables\MakeProposal;
use Nelbix\App\Payables\ProposalQuery;
use Nelbix\App\Payables\TakeIn;
use Nelbix\App\Payables\TurnAround;
use Nelbix\App\Payables\Underneath;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Ledger\DocumentKind;
use Nelbix\Core\Ledger\Side;
use Nelbix\Core\Settlement\AdjustmentKind;

final class ProposalTest extends AppCase
{
    private function make(string $due = '2026-06-15'): int
    {
        ['criteria' => $criteria, 'bankAccountId' => $bank, 'method' => $method] = self::get(
            CriteriaReader::class,
        )->read($this->clerk, ['pay_date' => self::DAY, 'due_through' => $due]);

        return self::get(MakeProposal::class)->make($this->clerk, $criteria, $bank, $method);
    }

    private function book(): int
    {
        return (int) $this->db()->fetchOne(
            'SELECT c.id FROM check_book c JOIN bank_account b ON b.id = c.bank_account_id WHERE b.company_id = ?',
            [$this->clerk->companyId],
        );
    }

    /** Each vendor that is named is looked up: 500 are, and more are refused with the way to go on; one named twice is one. */
    public function testARunNamesFiveHundredVendorsAtMost(): void
    {
        $read = fn (int $n): array => self::refusedFields(
            fn () => self::get(CriteriaReader::class)->read($this->clerk, [
                'pay_date' => self::DAY,
                'vendors' => implode(' ', array_map(static fn (int $k): string => 'X-'.$k, range(1, $n))).' X-1',
            ]),
        );
        self::assertCount(500, $read(500));
        self::assertCount(501, $read(501), 'one problem more, and the last one is not looked up');
    }

    public function testFromProposalToPostedRunWithASpoiledCheck(): void
    {
        $invoice = $this->itemOf($this->invoice(Side::Payables, '1000.00'));
        $credit = $this->itemOf(
            $this->invoice(Side::Payables, '100.00', ['kind' => 'credit_note', 'number' => 'CN-1']),
        );
        $id = $this->make('2026-07-31');
        self::assertSame(
            ['items'],
            self::refusedFields(
                fn () => $this->money(
                    Side::Payables,
                    1000,
                    [new PlacementRequest($invoice, 1000)],
                    [],
                    self::DAY,
                    DocumentKind::Payment,
                ),
            ),
            'reserved items are named',
        );
        self::assertSame(
            ['due_through'],
            self::refusedFields(fn () => $this->make('2026-07-31')),
            'reserved items cannot be proposed twice',
        );
        self::assertSame(
            [''],
            self::refusedFields(fn () => self::get(DecideProposal::class)->decide($this->clerk, $id, true)),
            'not by the person who made it',
        );
        self::assertSame(
            [''],
            self::refusedFields(fn () => self::get(PrintChecks::class)->print($this->clerk, $id, $this->book(), 1001)),
            'not before approval',
        );
        self::get(DecideProposal::class)->decide($this->approver, $id, true);
        self::assertSame(
            ['first_number'],
            self::refusedFields(fn () => self::get(PrintChecks::class)->print($this->clerk, $id, $this->book(), 1000)),
        );
        self::get(PrintChecks::class)->print($this->clerk, $id, $this->book(), 1001);
        self::assertSame([''], self::refusedFields(fn () => $this->postRun($id)), 'not before it was said what printed');
        self::assertSame(1, self::get(PrintChecks::class)->sayWhatPrinted($this->clerk, $id, [1001], 'jammed'));
        self::assertSame(0, self::get(PrintChecks::class)->sayWhatPrinted($this->clerk, $id, [], ''));
        self::assertSame(1, $this->postRun($id));
        // 1,000.00 less 2 % discount less the credit of 100.00
        self::assertSame(
            [0, 0, -88000, -2000, 0],
            [
                $this->open($invoice),
                $this->open($credit),
                $this->balance('1000'),
                $this->balance('5900'),
                $this->balance('2100'),
            ],
        );
        self::assertSame(
            ['1001 spoiled', '1002 issued'],
            $this->db()->fetchFirstColumn("SELECT CONCAT(number, ' ', state) FROM bank_check ORDER BY number"),
        );
        self::assertSame([''], self::refusedFields(fn () => $this->postRun($id)), 'never twice');
    }

    public function testDropRestoreAndRefuse(): void
    {
        $a = $this->itemOf($this->invoice(Side::Payables, '1000.00'));
        $b = $this->itemOf($this->invoice(Side::Payables, '50.00'));
        $id = $this->make('2026-07-31');
        self::get(ChangeProposal::class)->change($this->clerk, $id, [$a], true);
        $other = $this->make('2026-07-31');
        self::assertSame(
            [''],
            self::refusedFields(fn () => self::get(ChangeProposal::class)->change($this->clerk, $id, [$a], false)),
            'another proposal holds it by now',
        );
        self::get(ChangeProposal::class)->dropAll($this->clerk, $other);
        self::get(ChangeProposal::class)->change($this->clerk, $id, [$a], false);
        self::assertSame(
            ['reason'],
            self::refusedFields(fn () => self::get(DecideProposal::class)->decide($this->approver, $id, false)),
        );
        self::get(DecideProposal::class)->decide($this->approver, $id, false, 'too early');
        self::get(ChangeProposal::class)->dropAll($this->clerk, $id);
        self::assertSame(
            [0, 100000, 5000],
            [
                (int) $this->db()->fetchOne('SELECT COUNT(*) FROM open_item WHERE reserved_by_id IS NOT NULL'),
                $this->open($a),
                $this->open($b),
            ],
        );
    }

    public function testReasonsFromTheBooks(): void
    {
        $held = $this->invoice(Side::Payables, '20.00');
        self::get(ChangePosted::class)->hold($this->clerk, $held, 'two short');
        $big = $this->invoice(Side::Payables, '10000.01');
        $this->invoice(Side::Payables, '30.00', ['terms' => 'N60']);
        $this->invoice(Side::Payables, '40.00', ['document_date' => '2026-04-01', 'terms' => 'N30']);
        ['criteria' => $criteria] = self::get(CriteriaReader::class)->read($this->clerk, [
            'pay_date' => self::DAY,
            'due_through' => '2026-07-31',
        ]);
        $result = self::get(MakeProposal::class)->workOut($this->clerk, $criteria);
        $reasons = [];
        foreach ([...$result->in, ...$result->out] as $d) {
            $reasons[$d->candidate->item->original] = $d->reason->value;
        }
        self::assertSame(
            [2000 => 'held', 3000 => 'not_due', 4000 => 'overdue', 1000001 => 'awaiting_approval'],
            (static function (array $r): array {
                ksort($r);

                return $r;
            })($reasons),
        );
        self::assertSame(
            [''],
            self::refusedFields(fn () => self::get(ChangePosted::class)->decide($this->clerk, $big, true)),
            'not by the person who entered it',
        );
        self::get(ChangePosted::class)->decide($this->approver, $big, true);
        self::assertCount(2, self::get(MakeProposal::class)->workOut($this->clerk, $criteria)->in);
    }

    public function testSkippedNumbersStandInTheRegister(): void
    {
        $skip = self::get(\Nelbix\App\Bank\SkipChecks::class);
        self::assertSame(['reason'], self::refusedFields(fn () => $skip->skip($this->clerk, $this->book(), 1002, '')));
        self::assertSame(
            ['through'],
            self::refusedFields(fn () => $skip->skip($this->clerk, $this->book(), 1000, 'torn')),
        );
        self::assertSame(2, $skip->skip($this->clerk, $this->book(), 1002, 'torn'));
        self::assertSame(
            1003,
            (int) $this->db()->fetchOne('SELECT next_number FROM check_book WHERE id = ?', [$this->book()]),
        );
    }

    public function testAgainOnFollowsTheRhythmOfPastRuns(): void
    {
        self::assertSame(
            '2026-06-22',
            self::get(CriteriaReader::class)
                ->read($this->clerk, ['pay_date' => self::DAY])['criteria']->againOn->iso(),
        );
        foreach (['2026-05-04', '2026-05-18', '2026-06-01'] as $k => $day) {
            $this->db()->executeStatement(
                <<<SQL
                INSERT INTO proposal (company_id, number, state, pay_date, due_through, again_on, bank_account_id, method, criteria,
                    created_by_id, created_at)
                SELECT ?, ?, 'posted', ?, ?, ?, b.id, 'check', '{}', ?, NOW()
                FROM bank_account b
                WHERE b.company_id = ?
                SQL
                ,
                [$this->clerk->companyId, 'PP-'.$k, $day, $day, $day, $this->clerk->userId, $this->clerk->companyId],
            );
        }
        self::assertSame(
            '2026-06-29',
            self::get(CriteriaReader::class)
                ->read($this->clerk, ['pay_date' => self::DAY])['criteria']->againOn->iso(),
        );
    }

    /** 1,000.00 + 200.00, 2 % discount 24.00, 10 %: withheld 98.00, paid 1,078.00. Source: rules.md, Tax. */
    public function testWithholdingThroughARun(): void
    {
        self::get(\Nelbix\App\Setup\SaveTaxCode::class)->save($this->clerk, [
            'code' => 'P20',
            'text' => 'Twenty',
            'rate' => '20',
            'account' => '1300',
            'use' => 'purchase',
        ]);
        $this->db()->executeStatement("UPDATE party SET withholding_percent = 10 WHERE code = 'V-1'");
        $item = $this->itemOf(
            $this->invoice(Side::Payables, '1000.00', [
                'lines' => [['account' => '5000', 'amount' => '1000.00', 'tax_code' => 'P20']],
            ]),
        );
        $id = $this->make('2026-07-31');
        $before = $this->entry($id);
        self::get(DecideProposal::class)->decide($this->approver, $id, true);
        self::get(PrintChecks::class)->print($this->clerk, $id, $this->book(), 1001);
        self::get(PrintChecks::class)->sayWhatPrinted($this->clerk, $id, [], '');
        $this->postRun($id);
        // what stood beside review and approval is what was posted, account by account
        self::assertSame($before, $this->entry($id));
        self::assertSame(
            ['1000' => -107800, '2100' => 120000, '2250' => -9800, '5900' => -2400],
            array_map(static fn (array $a): int => $a['debit'] - $a['credit'], $before),
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
        self::assertSame(107800, (int) $this->db()->fetchOne('SELECT amount FROM bank_check'));
    }

    /** @return array<string, array{number: string, name: string, debit: int, credit: int, by: array<string, int>}> by account */
    private function entry(int $proposal): array
    {
        $run = self::get(\Doctrine\ORM\EntityManagerInterface::class)->find(
            \Nelbix\App\Payables\Proposal::class,
            $proposal,
        );
        self::assertNotNull($run);
        $entry = self::get(\Nelbix\App\Payables\RunEntry::class)->of($this->clerk, $run);
        self::assertNull($entry['refused']);

        return array_column($entry['accounts'], null, 'number');
    }

    /** @return array<string, mixed> */
    private function line(int $proposal, int $item): array
    {
        return $this->db()->fetchAssociative(
            'SELECT is_in, dropped, applied, discount, withholding, pay, payment FROM proposal_line WHERE proposal_id = ? AND item_id = ?',
            [$proposal, $item],
        ) ?:
            [];
    }

    /** 490.00 within 2/10 of 1,000.00 settles 500.00 (textbook). Source: rules.md, Payment terms. */
    public function testPartOfAnItemARefusedDiscountAndBack(): void
    {
        $item = $this->itemOf($this->invoice(Side::Payables, '1000.00'));
        $id = $this->make('2026-07-31');
        $change = self::get(ChangeLine::class);
        $change->change($this->clerk, $id, $item, '490', true);
        self::assertSame(
            [50000, 1000, 49000],
            array_map('intval', [
                $this->line($id, $item)['applied'],
                $this->line($id, $item)['discount'],
                $this->line($id, $item)['pay'],
            ]),
        );
        $change->change($this->clerk, $id, $item, '', false);
        self::assertSame(
            [100000, 0, 100000],
            array_map('intval', [
                $this->line($id, $item)['applied'],
                $this->line($id, $item)['discount'],
                $this->line($id, $item)['pay'],
            ]),
        );
        foreach (['0', '-5', '1000.01', 'x'] as $wrong) {
            self::assertSame(
                ['pay'],
                self::refusedFields(fn () => $change->change($this->clerk, $id, $item, $wrong, true)),
                $wrong,
            );
        }
        $change->change($this->clerk, $id, $item, '', true);
        self::assertSame('98000', (string) $this->line($id, $item)['pay']);
        $change->change($this->clerk, $id, $item, '490', true);
        self::get(DecideProposal::class)->decide($this->approver, $id, true);
        self::assertSame(
            [''],
            self::refusedFields(fn () => $change->change($this->clerk, $id, $item, '', true)),
            'not once it is approved',
        );
        self::get(PrintChecks::class)->print($this->clerk, $id, $this->book(), 1001);
        self::get(PrintChecks::class)->sayWhatPrinted($this->clerk, $id, [], '');
        $this->postRun($id);
        self::assertSame(
            [50000, -49000, -1000, -50000],
            [$this->open($item), $this->balance('1000'), $this->balance('5900'), $this->balance('2100')],
        );
    }

    public function testTakingInWhatIsNotDueAndPuttingItBack(): void
    {
        $due = $this->itemOf(
            $this->invoice(Side::Payables, '100.00', ['document_date' => '2026-04-01', 'terms' => 'N30']),
        );
        $later = $this->itemOf(
            $this->invoice(Side::Payables, '200.00', ['document_date' => '2026-06-14', 'terms' => 'N30']),
        );
        $held = $this->itemOf(
            $heldDocument = $this->invoice(Side::Payables, '300.00', [
                'document_date' => '2026-04-01',
                'terms' => 'N30',
            ]),
        );
        self::get(ChangePosted::class)->hold($this->clerk, $heldDocument, 'goods missing');
        $id = $this->make();
        self::assertSame([''], self::refusedFields(fn () => self::get(TakeIn::class)->take($this->clerk, $id, [$held])));
        self::assertSame(
            [''],
            self::refusedFields(fn () => self::get(TakeIn::class)->take($this->clerk, $id, [$due])),
            'it is in already',
        );
        self::get(TakeIn::class)->take($this->clerk, $id, [$later]);
        self::assertSame(
            [1, 20000],
            array_map('intval', [$this->line($id, $later)['payment'], $this->line($id, $later)['pay']]),
            'it joins the payment of its vendor',
        );
        self::assertSame(
            ['items'],
            self::refusedFields(
                fn () => $this->money(
                    Side::Payables,
                    100,
                    [new PlacementRequest($later, 100)],
                    [],
                    self::DAY,
                    DocumentKind::Payment,
                ),
            ),
            'and is reserved',
        );
        self::get(ChangeProposal::class)->change($this->clerk, $id, [$later], true);
        self::assertSame(
            [0, 0],
            array_map('intval', [$this->line($id, $later)['is_in'], $this->line($id, $later)['dropped']]),
            'dropped again it is out for its first reason',
        );
        $this->money(Side::Payables, 100, [new PlacementRequest($later, 100)], [], self::DAY, DocumentKind::Payment);
        self::assertSame(
            [''],
            self::refusedFields(fn () => self::get(TakeIn::class)->take($this->clerk, $id, [$later])),
            'it changed meanwhile',
        );
    }

    public function testSeveralMethodsInOneRun(): void
    {
        $save = fn (string $code, string $method): mixed => self::get(SaveParty::class)->save(
            $this->clerk,
            Side::Payables,
            [
                'code' => $code,
                'name' => 'Vendor '.$code,
                'terms' => 'N30',
                'default_account' => '5000',
                'method' => $method,
                'routing_number' => 'transfer' === $method ? '021000021' : '',
                'account_number' => 'transfer' === $method ? '12345' : '',
            ],
            null,
            true,
        );
        $save('V-H', 'check');
        $save('V-W', 'check');
        $save('V-F', 'transfer');
        $items = array_map(
            fn (string $code): int => $this->itemOf(
                $this->invoice(Side::Payables, '100.00', [
                    'party' => $code,
                    'document_date' => '2026-04-01',
                    'terms' => 'N30',
                ]),
            ),
            ['V-1' => 'V-1', 'V-H' => 'V-H', 'V-W' => 'V-W', 'V-F' => 'V-F'],
        );
        ['criteria' => $criteria, 'bankAccountId' => $bank, 'method' => $method] = self::get(
            CriteriaReader::class,
        )->read($this->clerk, ['pay_date' => self::DAY, 'method' => 'all']);
        $id = self::get(MakeProposal::class)->make($this->clerk, $criteria, $bank, $method);
        $payment = fn (string $code): int => (int) $this->line($id, $items[$code])['payment'];
        $change = function (string $code, array $raw) use ($id, $payment): void {
            self::get(ChangePayment::class)->change($this->clerk, $id, $payment($code), $raw);
        };
        $change('V-H', ['pay_by' => 'hand', 'note' => 'he waits at the gate']);
        $change('V-W', ['pay_by' => 'wire', 'reference' => 'W-77']);
        self::assertSame(
            ['pay_by'],
            self::refusedFields(fn () => $change('V-W', ['pay_by' => 'file'])),
            'it has no bank account',
        );
        self::get(DecideProposal::class)->decide($this->approver, $id, true);
        self::assertSame(
            [''],
            self::refusedFields(fn () => $change('V-W', ['pay_by' => 'check'])),
            'how it is paid was approved',
        );
        self::get(PrintChecks::class)->print($this->clerk, $id, $this->book(), 1001);
        self::assertSame(
            1,
            (int) $this->db()->fetchOne('SELECT COUNT(*) FROM bank_check'),
            'only what is printed here takes a number',
        );
        self::get(PrintChecks::class)->sayWhatPrinted($this->clerk, $id, [], '');
        self::assertSame(
            ['reference'],
            self::refusedFields(fn () => $this->postRun($id)),
            'the hand check has no number',
        );
        $change('V-H', ['reference' => '1001']);
        self::assertSame(['reference'], self::refusedFields(fn () => $this->postRun($id)), '1001 is used');
        $change('V-H', ['reference' => '1002']);
        self::assertSame(4, $this->postRun($id));
        self::assertSame(
            ['check 1001', 'check 1002', 'W-77', ''],
            array_map(
                fn (string $code): string => (string) $this->db()->fetchOne(
                    <<<'SQL'
                    SELECT d.reference
                    FROM proposal_payment y
                    JOIN document d ON d.id = y.document_id
                    WHERE y.proposal_id = ? AND y.payment = ?
                    SQL
                    ,
                    [$id, $payment($code)],
                ),
                ['V-1', 'V-H', 'V-W', 'V-F'],
            ),
        );
        self::assertSame(
            ['1001 issued', '1002 issued'],
            $this->db()->fetchFirstColumn("SELECT CONCAT(number, ' ', state) FROM bank_check ORDER BY number"),
        );
        self::assertSame(-40000, $this->balance('1000'));
    }

    public function testWhatChangedUnderneathMustBeAcceptedOrMended(): void
    {
        $document = $this->invoice(Side::Payables, '1000.00');
        $id = $this->make('2026-07-31');
        $this->db()->executeStatement("UPDATE proposal SET created_at = '2020-01-01'");
        $underneath = self::get(Underneath::class);
        self::assertCount(0, $underneath->of($id));
        self::get(ChangePosted::class)->hold($this->clerk, $document, 'short');
        $credit = $this->itemOf($this->invoice(Side::Payables, '50.00', ['kind' => 'credit_note', 'number' => 'CN-9']));
        $whats = array_column($underneath->of($id), 'what');
        self::assertCount(2, $whats);
        self::assertStringContainsString('is held: short', $whats[0]);
        self::assertStringContainsString('is a new credit of 50.00', $whats[1]);
        self::assertSame(
            [''],
            self::refusedFields(fn () => self::get(DecideProposal::class)->decide($this->approver, $id, true)),
        );
        $seen = Underneath::digest($underneath->of($id));
        self::get(TakeIn::class)->take($this->clerk, $id, [$credit]);
        self::assertCount(1, $underneath->of($id), 'the credit is in by now');
        self::assertSame(
            [''],
            self::refusedFields(fn () => self::get(AcceptChanges::class)->accept($this->clerk, $id, $seen)),
            'what was seen is not what is',
        );
        self::get(AcceptChanges::class)->accept($this->clerk, $id, Underneath::digest($underneath->of($id)));
        self::get(DecideProposal::class)->decide($this->approver, $id, true);
        self::assertSame('approved', $this->db()->fetchOne('SELECT state FROM proposal WHERE id = ?', [$id]));
    }

    public function testApprovalUpToAPersonsLimit(): void
    {
        $this->invoice(Side::Payables, '1000.00');
        $id = $this->make('2026-07-31');
        $limit = fn (?int $minor): mixed => $this->db()->executeStatement(
            'UPDATE membership SET approval_limit = ? WHERE user_id = ?',
            [$minor, $this->approver->userId],
        );
        $limit(97999);
        self::assertSame(
            [''],
            self::refusedFields(fn () => self::get(DecideProposal::class)->decide($this->approver, $id, true)),
        );
        $limit(98000);
        self::get(DecideProposal::class)->decide($this->approver, $id, true);
        self::assertSame('approved', $this->db()->fetchOne('SELECT state FROM proposal WHERE id = ?', [$id]));
    }

    /** What is held, or whose vendor is stopped, after the approval is not paid behind the approver's back. */
    public function testWhatIsHeldOrStoppedAfterTheApprovalIsNotPosted(): void
    {
        $document = $this->invoice(Side::Payables, '100.00', ['document_date' => '2026-04-01', 'terms' => 'N30']);
        $id = $this->make();
        self::get(DecideProposal::class)->decide($this->approver, $id, true);
        self::get(PrintChecks::class)->print($this->clerk, $id, $this->book(), 1001);
        self::get(PrintChecks::class)->sayWhatPrinted($this->clerk, $id, [], '');
        $said = function () use ($id): string {
            try {
                $this->postRun($id);
            } catch (\Nelbix\Core\Refused $e) {
                return $e->getMessage();
            }

            return 'posted';
        };
        self::get(ChangePosted::class)->hold($this->clerk, $document, 'goods came back');
        self::assertStringContainsString('is held: goods came back', $said());
        self::get(ChangePosted::class)->release($this->clerk, $document);
        $save = fn (string $reason): mixed => self::get(SaveParty::class)->save(
            $this->clerk,
            Side::Payables,
            ['name' => 'Fenwick Timber', 'stops' => ['payment' => ['reason' => $reason, 'ends_on' => '']]],
            (int) $this->db()->fetchOne("SELECT id FROM party WHERE code = 'V-1'"),
        );
        $save('court order');
        self::assertStringContainsString('No payment to Fenwick Timber', $said());
        $save('');
        self::assertSame('posted', $said());
    }

    public function testAnAccountThatARunPaysToStaysUntilItIsPaid(): void
    {
        $vendor = fn (array $raw): mixed => self::get(SaveParty::class)->save(
            $this->clerk,
            Side::Payables,
            ['name' => 'Fenwick Timber', ...$raw],
            (int) $this->db()->fetchOne("SELECT id FROM party WHERE code = 'V-1'"),
        );
        $vendor(['banks' => [['label' => 'Second', 'routing_number' => '021000021', 'account_number' => '77']]]);
        $bank = (string) $this->db()->fetchOne('SELECT id FROM party_bank');
        $item = $this->itemOf(
            $this->invoice(Side::Payables, '100.00', ['document_date' => '2026-04-01', 'terms' => 'N30']),
        );
        $id = $this->make();
        self::get(ChangePayment::class)->change($this->clerk, $id, (int) $this->line($id, $item)['payment'], [
            'pay_by' => 'file',
            'bank' => $bank,
        ]);
        self::assertSame(['banks'], self::refusedFields(fn () => $vendor(['banks' => []])));
        self::assertSame(
            ['banks'],
            self::refusedFields(
                fn () => $vendor([
                    'banks' => [
                        ['id' => $bank, 'label' => 'Second', 'routing_number' => '021000021', 'account_number' => '78'],
                    ],
                ]),
            ),
        );
        $vendor([
            'banks' => [
                ['id' => $bank, 'label' => 'Renamed', 'routing_number' => '021000021', 'account_number' => '77'],
            ],
        ]);
        self::get(ChangeProposal::class)->dropAll($this->clerk, $id);
        $vendor(['banks' => []]);
        self::assertSame(0, (int) $this->db()->fetchOne('SELECT COUNT(*) FROM party_bank'));
    }

    public function testARefundThatWaitsForItsCreditIsNotPaidOut(): void
    {
        $this->invoice(Side::Payables, '100.00', ['document_date' => '2026-04-01', 'terms' => 'N30']);
        $refund = $this->itemOf($this->money(Side::Payables, 8000, [], [], '2026-06-01', DocumentKind::Refund));
        $id = $this->make();
        self::assertSame(
            [0, 10000],
            [
                (int) $this->line($id, $refund)['is_in'],
                (int) $this->db()->fetchOne('SELECT SUM(pay) FROM proposal_line WHERE proposal_id = ? AND is_in = 1', [
                    $id,
                ]),
            ],
        );
        self::assertSame(
            [''],
            self::refusedFields(fn () => self::get(TakeIn::class)->take($this->clerk, $id, [$refund])),
        );
    }

    /** The proposal beside other criteria: what only one of them pays, and turned around at once. */
    public function testBesideOtherCriteria(): void
    {
        $this->invoice(Side::Payables, '100.00', [
            'document_date' => '2026-04-01',
            'terms' => 'N30',
            'number' => 'OLD',
        ]);
        $this->invoice(Side::Payables, '70.00', ['document_date' => '2026-06-01', 'terms' => 'N30', 'number' => 'NEW']);
        $id = $this->make();
        ['criteria' => $criteria] = self::get(CriteriaReader::class)->read($this->clerk, [
            'pay_date' => self::DAY,
            'due_through' => '2026-07-31',
            'at_least' => '50',
        ]);
        $found = self::get(Comparison::class)->of($this->clerk, $id, $criteria);
        self::assertSame(
            [10000, 17000, 1],
            [$found['here']['pay'], $found['there']['pay'], $found['same']],
            'its own reservation does not keep an item out',
        );
        self::assertSame(
            [['NEW', null, 7000, 'take']],
            array_map(
                static fn (array $r): array => [$r['their_number'], $r['here'], $r['there'], $r['can']],
                $found['rows'],
            ),
        );
        self::get(TurnAround::class)->turn($this->clerk, $id, [$found['rows'][0]['item_id']]);
        self::assertSame(
            [17000, []],
            [($found = self::get(Comparison::class)->of($this->clerk, $id, $criteria))['here']['pay'], $found['rows']],
        );
        ['criteria' => $less] = self::get(CriteriaReader::class)->read($this->clerk, [
            'pay_date' => self::DAY,
            'cash' => '80',
            'due_through' => '2026-07-31',
        ]);
        $rows = self::get(Comparison::class)->of($this->clerk, $id, $less)['rows'];
        self::assertSame(
            [
                ['OLD', 10000, null, 'over the cash to spend', 'drop'],
                ['NEW', 7000, null, 'over the cash to spend', 'drop'],
            ],
            array_map(
                static fn (array $r): array => [$r['their_number'], $r['here'], $r['there'], $r['there_why'], $r['can']],
                $rows,
            ),
            'the two are one payment',
        );
        self::get(TurnAround::class)->turn($this->clerk, $id, [$rows[0]['item_id']]);
        self::assertSame('restore', self::get(Comparison::class)->of($this->clerk, $id, $criteria)['rows'][0]['can']);
        self::assertSame(
            ['items'],
            self::refusedFields(
                fn () => self::get(TurnAround::class)->turn($this->clerk, $id, [$rows[0]['item_id'], 999999]),
            ),
        );
    }

    /** 980.00 paid within 2/10, voided; paid again after the days are over, the 20.00 may be kept: the run is approved. */
    public function testAPaymentMadeAgainAfterAVoidMayKeepTheLapsedDiscount(): void
    {
        $invoice = $this->itemOf($this->invoice(Side::Payables, '1000.00'));
        $other = $this->itemOf(
            $this->invoice(Side::Payables, '500.00', ['document_date' => '2026-04-01', 'terms' => 'N30']),
        );
        $payment = $this->money(
            Side::Payables,
            98000,
            [new PlacementRequest($invoice, 100000)],
            [new AdjustmentRequest($invoice, AdjustmentKind::Discount, -2000)],
            self::DAY,
            DocumentKind::Payment,
        );
        self::get(ReverseDocument::class)->event(
            $this->clerk,
            $payment,
            Day::of('2026-07-01'),
            HowTakenBack::Voided,
            'lost in the mail',
        );
        ['criteria' => $criteria, 'bankAccountId' => $bank, 'method' => $method] = self::get(
            CriteriaReader::class,
        )->read($this->clerk, ['pay_date' => '2026-07-10', 'due_through' => '2026-07-31']);
        $id = self::get(MakeProposal::class)->make($this->clerk, $criteria, $bank, $method);
        $line = fn (): array => array_map(
            'intval',
            $this->db()->fetchNumeric(
                'SELECT applied, discount, pay FROM proposal_line WHERE proposal_id = ? AND item_id = ?',
                [$id, $invoice],
            ) ?:
            [],
        );
        self::assertSame([100000, 0, 100000], $line(), 'its days are over');
        self::assertSame(
            ['lapsed'],
            self::refusedFields(
                fn () => self::get(ChangeLine::class)->change($this->clerk, $id, $other, '', true, true),
            ),
            'that one never had a discount',
        );
        self::assertSame(
            ['pay'],
            self::refusedFields(
                fn () => self::get(ChangeLine::class)->change($this->clerk, $id, $invoice, '500', true, true),
            ),
        );
        self::get(ChangeLine::class)->change($this->clerk, $id, $invoice, '', true, true);
        self::assertSame([100000, 2000, 98000], $line());
        self::get(DecideProposal::class)->decide($this->approver, $id, true);
        self::get(PrintChecks::class)->print($this->clerk, $id, $this->book(), 1001);
        self::get(PrintChecks::class)->sayWhatPrinted($this->clerk, $id, [], '');
        $this->postRun($id);
        self::assertSame([0, -2000], [$this->open($invoice), $this->balance('5900')]);
        self::assertSame(
            0,
            self::get(LapsedDiscount::class)->of($invoice),
            'it was taken; there is no second one to keep',
        );
    }

    /** A vendor's group narrows a run; what is taken in later keeps to one payment for each invoice. */
    public function testAGroupOfVendorsAndAPaymentForEachInvoice(): void
    {
        $save = self::get(SaveParty::class);
        $vendor = (int) $this->db()->fetchOne("SELECT id FROM party WHERE code = 'V-1'");
        self::assertSame(
            ['group'],
            self::refusedFields(
                fn () => $save->save(
                    $this->clerk,
                    Side::Payables,
                    ['name' => 'Fenwick Timber', 'group' => 'wood, and more'],
                    $vendor,
                ),
            ),
        );
        $save->save($this->clerk, Side::Payables, ['name' => 'Fenwick Timber', 'group' => 'wood'], $vendor);
        $save->save($this->clerk, Side::Payables, [
            'code' => 'V-2',
            'name' => 'Corrie Bronze',
            'terms' => 'N30',
            'default_account' => '5000',
        ]);
        foreach (
            [['V-1', '2026-04-01'], ['V-1', '2026-04-02'], ['V-1', '2026-06-01'], ['V-2', '2026-04-01']] as [$party, $day]
        ) {
            $this->invoice(Side::Payables, '100.00', ['party' => $party, 'document_date' => $day, 'terms' => 'N30']);
        }
        $raw = ['pay_date' => self::DAY, 'groups' => 'wood', 'per_invoice' => 'yes'];
        self::assertSame(
            ['groups'],
            self::refusedFields(
                fn () => self::get(CriteriaReader::class)->read($this->clerk, ['groups' => 'stone'] + $raw),
            ),
        );
        ['criteria' => $criteria, 'bankAccountId' => $bank, 'method' => $method] = self::get(
            CriteriaReader::class,
        )->read($this->clerk, $raw);
        $id = self::get(MakeProposal::class)->make($this->clerk, $criteria, $bank, $method, $raw);
        $payments = fn (): array => array_map(
            static fn (array $p): int => $p['pay'],
            array_values(self::get(ProposalQuery::class)->payments($id)),
        );
        self::assertSame([10000, 10000], $payments());
        self::get(TakeIn::class)->take($this->clerk, $id, [
            (int) $this->db()->fetchOne("SELECT item_id FROM proposal_line WHERE reason = 'not_due'"),
        ]);
        self::assertSame([10000, 10000, 10000], $payments());
    }

    public function testARunIsAskedForSomeMethods(): void
    {
        foreach (['V-5' => 'transfer', 'V-6' => 'card'] as $code => $method) {
            self::get(SaveParty::class)->save(
                $this->clerk,
                Side::Payables,
                [
                    'code' => $code,
                    'name' => 'Vendor '.$code,
                    'terms' => 'N30',
                    'default_account' => '5000',
                    'method' => $method,
                    ...'transfer' === $method ? ['routing_number' => '011000015', 'account_number' => '12345678'] : [],
                ],
                null,
                true,
            );
        }
        foreach (['V-1', 'V-5', 'V-6'] as $party) {
            $this->invoice(Side::Payables, '100.00', [
                'party' => $party,
                'document_date' => '2026-04-01',
                'terms' => 'N30',
            ]);
        }
        $in = function (string $method): array {
            ['criteria' => $criteria] = self::get(CriteriaReader::class)->read($this->clerk, [
                'pay_date' => self::DAY,
                'method' => $method,
            ]);

            return array_map(
                static fn (\Nelbix\Core\Proposal\ProposedPayment $p): string => $p->payee->code,
                self::get(MakeProposal::class)->workOut($this->clerk, $criteria)->payments,
            );
        };
        self::assertSame(
            [['V-1'], ['V-1', 'V-6'], ['V-5', 'V-6'], ['V-1', 'V-5', 'V-6']],
            [$in(''), $in('check,card'), $in('transfer,card'), $in('all')],
        );
        self::assertSame(['method'], self::refusedFields(fn () => $in('check,gold')));
        ['criteria' => $criteria, 'bankAccountId' => $bank, 'method' => $method] = self::get(
            CriteriaReader::class,
        )->read($this->clerk, ['pay_date' => self::DAY, 'method' => 'transfer,card']);
        $id = self::get(MakeProposal::class)->make($this->clerk, $criteria, $bank, $method);
        self::assertSame('transfer,card', $this->db()->fetchOne('SELECT method FROM proposal WHERE id = ?', [$id]));
    }

    /** Who sends a proposal back has not changed it, and may approve it when it is mended. */
    public function testWhoSentItBackMayApproveIt(): void
    {
        $item = $this->itemOf(
            $this->invoice(Side::Payables, '100.00', ['document_date' => '2026-04-01', 'terms' => 'N30']),
        );
        $id = $this->make();
        self::get(DecideProposal::class)->decide($this->approver, $id, false, 'too much');
        self::get(ChangeLine::class)->change($this->clerk, $id, $item, '50', true);
        self::get(DecideProposal::class)->decide($this->approver, $id, true);
        self::assertSame('approved', $this->db()->fetchOne('SELECT state FROM proposal WHERE id = ?', [$id]));
    }

    /** Any item of a run can be paid on its own, in review, and go back to the others. */
    public function testAnItemIsPaidOnItsOwn(): void
    {
        $a = $this->itemOf($this->invoice(Side::Payables, '100.00', ['number' => 'A']));
        $b = $this->itemOf($this->invoice(Side::Payables, '250.00', ['number' => 'B']));
        $credit = $this->itemOf($this->invoice(Side::Payables, '90.00', ['kind' => 'credit_note', 'number' => 'C']));
        $id = $this->make('2026-07-31');
        $apart = self::get(\Nelbix\App\Payables\PayApart::class);
        self::assertSame(
            ['items'],
            self::refusedFields(fn () => $apart->turn($this->clerk, $id, $credit)),
            'a credit is no payment',
        );
        self::assertTrue($apart->turn($this->clerk, $id, $a));
        self::assertSame(
            (string) $this->db()->fetchOne('SELECT number FROM open_item WHERE id = ?', [$a]),
            $this->db()->fetchOne("SELECT detail FROM history WHERE subject = 'proposal' AND action = 'paid apart'"),
        );
        $payments = self::get(ProposalQuery::class)->payments($id);
        self::assertSame([15500, 9800], array_values(array_column($payments, 'pay')));
        self::assertNotSame($this->line($id, $a)['payment'], $this->line($id, $b)['payment']);
        self::assertSame(
            ['items'],
            self::refusedFields(fn () => $apart->turn($this->clerk, $id, 999999)),
            'what is not in it cannot be turned',
        );
        self::assertFalse($apart->turn($this->clerk, $id, $a));
        self::assertSame($this->line($id, $a)['payment'], $this->line($id, $b)['payment']);
        // the credit must not be left with too little to lower
        self::get(ChangeProposal::class)->change($this->clerk, $id, [$a], true);
        self::assertSame(['items'], self::refusedFields(fn () => $apart->turn($this->clerk, $id, $b)));
        self::get(ChangeProposal::class)->change($this->clerk, $id, [$a], false);
        self::get(DecideProposal::class)->decide($this->approver, $id, true);
        self::assertSame(
            [''],
            self::refusedFields(fn () => $apart->turn($this->clerk, $id, $a)),
            'not once it is approved',
        );
    }

    /** Another number in the printer: those before it are skipped with the clerk's reason, and stand in the register. */
    public function testALaterNumberIsPrintedWithTheReasonForThoseSkipped(): void
    {
        $this->invoice(Side::Payables, '100.00', ['number' => 'A']);
        $id = $this->make('2026-07-31');
        self::get(DecideProposal::class)->decide($this->approver, $id, true);
        $print = self::get(PrintChecks::class);
        self::assertSame(
            ['first_number'],
            self::refusedFields(fn () => $print->print($this->clerk, $id, $this->book(), 1000, 'x')),
        );
        self::assertSame(
            ['skipped'],
            self::refusedFields(fn () => $print->print($this->clerk, $id, $this->book(), 1004)),
        );
        self::assertSame(0, (int) $this->db()->fetchOne('SELECT COUNT(*) FROM bank_check'), 'nothing is half done');
        $print->print($this->clerk, $id, $this->book(), 1004, 'the box was wet');
        self::assertSame(
            [
                ['1001', 'skipped', 'the box was wet'],
                ['1002', 'skipped', 'the box was wet'],
                ['1003', 'skipped', 'the box was wet'],
                ['1004', 'reserved', ''],
            ],
            array_map(
                static fn (array $r): array => array_map(strval(...), $r),
                $this->db()->fetchAllNumeric('SELECT number, state, reason FROM bank_check ORDER BY number'),
            ),
        );
    }
}
