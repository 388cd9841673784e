<?php

declare(strict_types=1);

namespace Nelbix\Tests\App;

use Doctrine\ORM\EntityManagerInterface;
use Nelbix\App\Books\AdjustmentRequest;
use Nelbix\App\Books\HowTakenBack;
use Nelbix\App\Books\PlacementRequest;
use Nelbix\App\Books\ReverseDocument;
use Nelbix\App\Books\UndoSettlement;
use Nelbix\App\Close\TieOut\TieOutQuery;
use Nelbix\App\Money\Bounce;
use Nelbix\App\Money\Claim;
use Nelbix\App\Money\ClaimKind;
use Nelbix\App\Money\ClaimRequest;
use Nelbix\App\Money\ClaimState;
use Nelbix\App\Money\Contra;
use Nelbix\App\Money\DecideWriteOff;
use Nelbix\App\Money\HandOver;
use Nelbix\App\Money\MakeClaim;
use Nelbix\App\Money\MoneyInput;
use Nelbix\App\Money\MovePrepayment;
use Nelbix\App\Money\PostMoney;
use Nelbix\App\Money\RequestRefund;
use Nelbix\App\Money\WriteOff;
use Nelbix\App\Parties\Nobody;
use Nelbix\App\Parties\Party;
use Nelbix\App\Parties\SaveParty;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Ledger\DocumentKind;
use Nelbix\Core\Ledger\Side;
use Nelbix\Core\Settlement\AdjustmentKind;

/** What carries an item on without money: claims, hand-overs, moves of prepayments, write-offs. Source: rules.md, Transfers. */
final class TransferTest extends ScreenCase
{
    private function customer(): Party
    {
        return self::get(EntityManagerInterface::class)
            ->getRepository(Party::class)
            ->findOneBy(['companyId' => $this->clerk->companyId, 'code' => 'C-1']) ?? self::fail();
    }

    /** Money of nobody known: a receipt on unidentified receipts. */
    private function nobodys(int $amount, string $date = self::DAY): int
    {
        return self::get(PostMoney::class)->post(
            $this->clerk,
            new MoneyInput(
                Side::Receivables,
                DocumentKind::Receipt,
                self::get(Nobody::class)->of($this->clerk->companyId)->id(),
                (int) $this->db()->fetchOne('SELECT id FROM bank_account WHERE company_id = ?', [
                    $this->clerk->companyId,
                ]),
                Day::of($date),
                'USD',
                $amount,
            ),
        );
    }

    private function itemAfter(int $document, int $part = 2): int
    {
        return (int) $this->db()->fetchOne('SELECT id FROM open_item WHERE document_id = ? AND part = ?', [
            $document,
            $part,
        ]);
    }

    /** @return array<string, int> ledger of the control accounts that are not zero, in normal sign, by number */
    private function controls(string $day = self::DAY): array
    {
        $found = [];
        foreach (self::get(TieOutQuery::class)->of($this->clerk->companyId, Day::of($day)) as $row) {
            self::assertSame(0, $row['tie']->difference(), $row['account'].' ties');
            if (0 !== $row['tie']->ledger) {
                $found[$row['account']] = $row['tie']->ledger;
            }
        }

        return $found;
    }

    public function testAReceiptOfNobodyKnownIsHandedOverAndKeepsTheDiscountOfItsDay(): void
    {
        // 2 % within 10 days of 1 June: 980.00 came on 10 June, is handed over on 15 June and still earns it
        $invoice = $this->invoice(Side::Receivables, '1000.00', [
            'document_date' => '2026-06-01',
            'terms' => '2-10-N30',
        ]);
        $receipt = $this->nobodys(98000, '2026-06-10');
        self::assertSame(['1200' => 100000, '2170' => 98000], $this->controls());
        $over = self::get(HandOver::class)->to(
            $this->clerk,
            $this->itemOf($receipt),
            $this->customer(),
            98000,
            Day::of(self::DAY),
            'their letter',
        );
        self::assertSame(['1200' => 2000], $this->controls());
        self::assertSame(['1200' => 100000, '2170' => 98000], $this->controls('2026-06-14'));
        $board = $this->postedOnBoard(
            'settle',
            [
                'party' => 'C-1',
                'placed' => [$this->itemOf($invoice) => '1000.00', $this->itemAfter($over) => '980.00'],
                'discount' => [$this->itemOf($invoice) => '20.00'],
            ],
            'receivables',
        );
        self::assertStringContainsString('Settled', $board);
        self::assertSame([], $this->controls());
        // the bank takes it back: what it was placed on is owed again, and nothing stands with nobody
        self::get(ReverseDocument::class)->event(
            $this->clerk,
            $receipt,
            Day::of('2026-06-20'),
            HowTakenBack::Bounced,
            'no funds',
        );
        self::assertSame(['1200' => 100000], $this->controls('2026-06-20'));
    }

    public function testOnlyWhatIsNobodysIsHandedOver(): void
    {
        $own = $this->money(Side::Receivables, 5000);
        self::assertSame(
            ['item'],
            self::refusedFields(
                fn () => self::get(HandOver::class)->to(
                    $this->clerk,
                    $this->itemOf($own),
                    $this->customer(),
                    5000,
                    Day::of(self::DAY),
                    '',
                ),
            ),
        );
        self::assertSame(
            ['amount'],
            self::refusedFields(
                fn () => self::get(HandOver::class)->to(
                    $this->clerk,
                    $this->itemOf($this->nobodys(700)),
                    $this->customer(),
                    701,
                    Day::of(self::DAY),
                    '',
                ),
            ),
        );
        // no invoice and no picker knows it
        self::assertStringContainsString(
            'Only receipts are taken',
            self::said(fn () => $this->invoice(Side::Receivables, '5.00', ['party' => '?'])),
        );
    }

    /** Through the board, the use cases and the page of the item: what is nobody's is given back to nobody, and prepays nothing. */
    public function testWhatIsNobodysIsNoPrepaymentAndNotGivenBack(): void
    {
        $why = 'Nobody knows yet whose money it is';
        foreach (['prepayment', 'refund'] as $kind) {
            $said = $this->postedOnBoard(
                'receipt',
                ['party' => '?', 'amount' => '5.00', 'kind' => $kind, 'kind_reason' => 'x'],
                'receivables',
            );
            self::assertStringContainsString($why, $said);
        }
        self::assertSame(0, (int) $this->db()->fetchOne('SELECT COUNT(*) FROM document'));
        $item = $this->itemOf($this->nobodys(700));
        $day = Day::of(self::DAY);
        self::assertStringContainsString(
            $why,
            self::said(fn () => self::get(MovePrepayment::class)->move($this->clerk, $item, 700, $day, '')),
        );
        self::assertStringContainsString(
            $why,
            self::said(fn () => self::get(RequestRefund::class)->request($this->clerk, $item, 700, $day, '')),
        );
        $page = '/TEST/receivables/item/'.$item.'/prepayment';
        self::assertStringContainsString(
            $why,
            $this->post($page, $page, ['amount' => '7.00', 'date' => '.'])
                ->filter('.said-refused')
                ->text(),
        );
    }

    public function testAClaimStaysOnItsAccountAndDropsBack(): void
    {
        $invoice = $this->invoice(Side::Receivables, '500.00', ['document_date' => '2026-05-01', 'terms' => 'N30']);
        $due = $this->db()->fetchOne('SELECT due_date FROM open_item WHERE document_id = ?', [$invoice]);
        $claim = self::get(MakeClaim::class)->make(
            $this->clerk,
            new ClaimRequest($this->itemOf($invoice), 10000, ClaimKind::Disputed, 'two planks were split'),
            Day::of(self::DAY),
        );
        self::assertSame(
            [[40000, $due], [10000, $due]],
            array_map(
                static fn (array $r): array => [(int) $r[0], $r[1]],
                $this->db()->fetchAllNumeric('SELECT open, due_date FROM open_item WHERE open <> 0 ORDER BY id'),
            ),
            'the rest is owed, the claim is due as the invoice was',
        );
        self::assertSame(['1200' => 50000], $this->controls());
        self::assertSame(
            0,
            (int) $this->db()->fetchOne(
                "SELECT COUNT(*) FROM journal_entry WHERE source_kind = 'document' AND source_id = ?",
                [$claim],
            ),
            'nothing is posted within one account',
        );
        self::get(ReverseDocument::class)->reverse($this->clerk, $claim, 'they paid after all');
        self::assertSame(
            50000,
            (int) $this->db()->fetchOne('SELECT open FROM open_item WHERE document_id = ?', [$invoice]),
        );
    }

    public function testAClaimThatIsSentTwiceIsMadeOnce(): void
    {
        $item = $this->itemOf($this->invoice(Side::Receivables, '500.00', ['terms' => 'N30']));
        $path = '/TEST/receivables/item/'.$item.'/claim';
        $fields = ['amount' => '100.00', 'reason' => 'scratched', 'date' => '.', '_key' => 'one page'];
        foreach ([1, 2] as $time) {
            $page = $this->post($path, $path, $fields);
            self::assertStringContainsString('100.00 USD of', $page->filter('.said-done')->text(), 'time '.$time);
        }
        self::assertSame(40000, $this->open($item));
        self::assertSame(1, (int) $this->db()->fetchOne('SELECT COUNT(*) FROM claim'));
        self::assertStringContainsString(
            'is far from today',
            $this->post($path, $path, [...$fields, '_key' => 'another', 'date' => '2027-06-15'])
                ->filter('.said-refused')
                ->text(),
        );
    }

    public function testUnappliedMoneyBecomesAPrepaymentAndIsUnappliedAgain(): void
    {
        foreach ([[Side::Receivables, '2150'], [Side::Payables, '1250']] as [$side, $account]) {
            $money = $this->money(
                $side,
                30000,
                [],
                [],
                self::DAY,
                Side::Payables === $side ? DocumentKind::Payment : DocumentKind::Receipt,
            );
            $moved = self::get(MovePrepayment::class)->move(
                $this->clerk,
                $this->itemOf($money),
                20000,
                Day::of(self::DAY),
                '',
            );
            self::assertSame(20000, $this->controls()[$account] ?? 0, 'part of it');
            $row = $this->aged($side, Day::of(self::DAY))[0]->row;
            self::assertSame([-20000, -10000], [$row->prepayments, $row->credits], 'each in its column of the aging');
            self::get(MovePrepayment::class)->move(
                $this->clerk,
                $this->itemAfter($moved),
                20000,
                Day::of(self::DAY),
                '',
            );
            self::assertArrayNotHasKey($account, $this->controls());
        }
    }

    public function testWhatIsAboveTheLimitWaitsForSomebodyElse(): void
    {
        $invoice = $this->invoice(Side::Receivables, '80.00');
        $item = $this->itemOf($invoice);
        $write = self::get(WriteOff::class);
        self::assertSame(
            ['reason'],
            self::refusedFields(
                fn () => $write->write(
                    $this->clerk,
                    [$item => 5000],
                    AdjustmentKind::BadDebt,
                    null,
                    Day::of(self::DAY),
                    ' ',
                ),
            ),
        );
        // 50.00 is within, 0.01 more is not
        $made = $write->write(
            $this->clerk,
            [$item => 1000],
            AdjustmentKind::BadDebt,
            null,
            Day::of(self::DAY),
            'gone away',
        );
        self::assertSame([], $made['claims']);
        self::assertSame(['1200' => 7000], $this->controls());
        $made = $write->write(
            $this->clerk,
            [$item => 5001],
            AdjustmentKind::BadDebt,
            null,
            Day::of(self::DAY),
            'bankrupt',
        );
        self::assertNull($made['settlement']);
        self::assertSame(['1200' => 7000], $this->controls(), 'it waits');
        $claim = self::get(EntityManagerInterface::class)->getRepository(Claim::class)->findOneBy([]) ?? self::fail();
        $decide = self::get(DecideWriteOff::class);
        self::assertStringContainsString(
            'awaits a decision already',
            self::said(
                fn () => $write->write(
                    $this->clerk,
                    [$claim->itemId => 5001],
                    AdjustmentKind::BadDebt,
                    null,
                    Day::of(self::DAY),
                    'again',
                ),
            ),
        );
        self::assertStringNotContainsString(
            'Write off',
            $this->page('/TEST/receivables/document/'.$claim->documentId)
                ->filter('main')
                ->text(),
        );
        self::assertStringContainsString(
            'You asked for this yourself',
            self::said(fn () => $decide->decide($this->clerk, $claim->id(), 1, true)),
        );
        $approver = $this->approver;
        self::assertStringContainsString(
            'since this page was loaded',
            self::said(fn () => $decide->decide($approver, $claim->id(), 7, true)),
        );
        $decide->decide($approver, $claim->id(), $claim->version, true);
        self::assertSame(['1200' => 1999], $this->controls());
        $claim = self::get(EntityManagerInterface::class)->find(Claim::class, $claim->id()) ?? self::fail();
        self::assertSame(ClaimState::Approved, $claim->state);
        self::assertStringContainsString(
            'since this page was loaded',
            self::said(fn () => $decide->decide($approver, $claim->id(), $claim->version, false, 'no')),
        );
    }

    /** 30.00 is within 50.00, and so is another 20.00; a cent more of the same item, whichever way, is not. */
    public function testALittleAgainAndAgainIsMuch(): void
    {
        $item = $this->itemOf($this->invoice(Side::Receivables, '100.00'));
        $write = fn (int $amount): array => self::get(WriteOff::class)->write(
            $this->clerk,
            [$item => $amount],
            AdjustmentKind::BadDebt,
            null,
            Day::of(self::DAY),
            'gone away',
        );
        self::assertSame([], $write(3000)['claims']);
        self::assertSame([], $write(2000)['claims']);
        self::assertCount(1, $write(1)['claims']);
        // through the use case of money, and through the board
        self::assertStringContainsString(
            'with what was let go before',
            self::said(
                fn () => $this->money(
                    Side::Receivables,
                    100,
                    [new PlacementRequest($item, 101)],
                    [new AdjustmentRequest($item, AdjustmentKind::BankCharge, -1)],
                ),
            ),
        );
        self::assertStringContainsString(
            'waits as a claim until somebody else approves',
            $this->postedOnBoard(
                'receipt',
                ['amount' => '49.00', 'placed' => [$item => '49.00'], 'rest' => [$item => 'charge']],
                'receivables',
            ),
        );
    }

    /** An invoice is claimed in two parts: what is let go of them is let go of the invoice. */
    public function testALittleOfEachClaimIsMuchOfTheInvoice(): void
    {
        $item = $this->itemOf($this->invoice(Side::Receivables, '100.00'));
        $parts = [];
        foreach ([5000, 4000] as $amount) {
            $claim = self::get(MakeClaim::class)->make(
                $this->clerk,
                new ClaimRequest($item, $amount, ClaimKind::Disputed, 'scratched'),
                Day::of(self::DAY),
            );
            $parts[] = $this->itemAfter($claim);
        }
        $write = fn (int $of, int $amount): array => self::get(WriteOff::class)->write(
            $this->clerk,
            [$of => $amount],
            AdjustmentKind::BadDebt,
            null,
            Day::of(self::DAY),
            'gone away',
        );
        self::assertSame([], $write($parts[0], 4001)['claims']);
        self::assertCount(1, $write($parts[1], 1000)['claims'], 'another part of the same');
        self::assertCount(1, $write($item, 1000)['claims'], 'and what was never claimed');
    }

    public function testARefusedWriteOffDropsBack(): void
    {
        $item = $this->itemOf($this->invoice(Side::Receivables, '80.00'));
        self::get(WriteOff::class)->write(
            $this->clerk,
            [$item => 8000],
            AdjustmentKind::BadDebt,
            null,
            Day::of(self::DAY),
            'bankrupt',
        );
        $claim = self::get(EntityManagerInterface::class)->getRepository(Claim::class)->findOneBy([]) ?? self::fail();
        $decide = self::get(DecideWriteOff::class);
        $approver = $this->approver;
        self::assertSame(
            ['why'],
            self::refusedFields(fn () => $decide->decide($approver, $claim->id(), $claim->version, false, ' ')),
        );
        $decide->decide($approver, $claim->id(), $claim->version, false, 'they can pay');
        self::assertSame(8000, (int) $this->db()->fetchOne('SELECT open FROM open_item WHERE id = ?', [$item]));
    }

    public function testACreditNoteIsNoWayRoundTheApprovalOfABadDebt(): void
    {
        self::assertStringContainsString(
            'takes bad debts',
            self::said(
                fn () => $this->invoice(Side::Receivables, '5.00', [
                    'kind' => 'credit_note',
                    'lines' => [['account' => '6900', 'amount' => '5.00']],
                ]),
            ),
        );
    }

    public function testABounceOnItsDayWithTheFeeOfTheBank(): void
    {
        $invoice = $this->itemOf($this->invoice(Side::Receivables, '1000.00', ['document_date' => '2026-06-01']));
        $said = $this->postedOnBoard(
            'receipt',
            [
                'date' => '2026-06-10',
                'amount' => '980',
                'placed' => [$invoice => '1000'],
                'discount' => [$invoice => '20'],
            ],
            'receivables',
        );
        self::assertStringContainsString('Posted', $said);
        $receipt = (int) $this->db()->fetchOne("SELECT id FROM document WHERE kind = 'receipt'");
        $page = '/TEST/receivables/document/'.$receipt;
        $done = $this->post($page, $page.'/undo', [
            '_action' => 'void',
            'date' => '2026-06-14',
            'reason' => 'no funds',
            'fee' => '12.50',
            'charge_on' => '1',
        ]);
        self::assertStringContainsString('bounced as of 14 Jun 2026', $done->filter('.said-done')->text());
        self::assertStringContainsString(
            '12.50 USD is in bank charges, and charged on by CD-',
            $done->filter('.said-done')->text(),
        );
        self::assertStringContainsString('bounced on 14 Jun 2026 by RC-26-', $done->filter('.head .note')->text());
        // rules.md: receivables 1,000.00 again, bank 980.00 and discounts allowed 20.00 back; the fee is owed by the customer too
        self::assertSame(['1200' => 101250], $this->controls());
        self::assertSame([-1250, 0, 0], array_map($this->balance(...), ['1000', '4900', '6800']));
        self::assertStringContainsString(
            'type the bank’s fee',
            self::said(
                fn () => self::get(Bounce::class)->record(
                    $this->clerk,
                    $this->money(Side::Receivables, 100),
                    Day::of(self::DAY),
                    'x',
                    0,
                    true,
                ),
            ),
        );
    }

    public function testContraOfALinkedPairAndItsUndo(): void
    {
        $owed = $this->itemOf($this->invoice(Side::Payables, '700.00', ['terms' => 'N30']));
        $owes = $this->itemOf($this->invoice(Side::Receivables, '500.00', ['terms' => 'N30']));
        $contra = fn (array $placed): int => self::get(Contra::class)->post(
            $this->clerk,
            $this->customer(),
            $placed,
            Day::of(self::DAY),
            'agreed by telephone',
        );
        self::assertStringContainsString(
            'is linked with no vendor',
            self::said(fn () => $contra([$owed => 50000, $owes => 50000])),
        );
        $vendor = (int) $this->db()->fetchOne('SELECT id FROM party WHERE company_id = ? AND code = ?', [
            $this->clerk->companyId,
            'V-1',
        ]);
        self::get(SaveParty::class)->link($this->clerk, $vendor, $this->customer()->id());
        self::get(EntityManagerInterface::class)->clear();
        self::assertStringContainsString(
            'must be equal',
            self::said(fn () => $contra([$owed => 50001, $owes => 50000])),
        );
        self::assertStringContainsString('must be equal', self::said(fn () => $contra([$owed => 50000])));
        // rules.md: −500.00 in payables and −500.00 in receivables, payables debited and receivables credited
        $id = $contra([$owed => 50000, $owes => 50000]);
        self::assertSame(['2100' => 20000], $this->controls());
        // both sides stand and fall together, and its page is read from either
        foreach (
            $this->db()->fetchFirstColumn('SELECT id FROM settlement WHERE document_id = ?', [$id]) as $settlement
        ) {
            self::assertStringContainsString(
                'reverse NT-26-00001 instead',
                self::said(fn () => self::get(UndoSettlement::class)->undo($this->clerk, (int) $settlement)),
            );
        }
        foreach (['payables', 'receivables'] as $side) {
            $page = $this->page('/TEST/'.$side.'/document/'.$id);
            self::assertSame(0, $page->filter('details.undo')->count());
        }
        self::get(ReverseDocument::class)->reverse($this->clerk, $id, 'they want it paid');
        self::assertSame(['1200' => 50000, '2100' => 70000], $this->controls());
        // the page takes what the smaller side holds, oldest first
        $page = '/TEST/contra/'.$this->customer()->id();
        $form = $this->page($page);
        self::assertSame(
            ['500.00', '500.00'],
            $form->filter('input[name^="placed"]')->each(static fn ($n): string => (string) $n->attr('value')),
        );
        $done = $this->post($page, $page, ['placed' => [$owed => '500', $owes => '500'], 'date' => '.']);
        self::assertStringContainsString(
            'Payables fell by 500.00 USD; receivables fell by 500.00 USD.',
            $done->filter('.said-done')->text(),
        );
    }
}
