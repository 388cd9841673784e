<?php

declare(strict_types=1);

namespace Nelbix\Tests\App;

use Nelbix\App\Banking\FileFormat;
use Nelbix\App\Banking\MakeBankFile;
use Nelbix\App\Banking\PrintChecks;
use Nelbix\App\Banking\RegisterQuery;
use Nelbix\App\Banking\ReturnPayment;
use Nelbix\App\Banking\SendBankFile;
use Nelbix\App\Books\ChangePosted;
use Nelbix\App\Books\HowTakenBack;
use Nelbix\App\Books\PlacementRequest;
use Nelbix\App\Books\ReverseDocument;
use Nelbix\App\Books\SettleItems;
use Nelbix\App\Books\SettlementRequest;
use Nelbix\App\Goods\DeliveryReader;
use Nelbix\App\Import\ImportFile;
use Nelbix\App\Invoices\InvoiceReader;
use Nelbix\App\Invoices\KeepDraft;
use Nelbix\App\Invoices\PostInvoice;
use Nelbix\App\Parties\SaveParty;
use Nelbix\App\Payables\CriteriaReader;
use Nelbix\App\Payables\DecideProposal;
use Nelbix\App\Payables\MakeProposal;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Ledger\DocumentKind;
use Nelbix\Core\Ledger\Side;

/** What a person approves is what that person saw, at what it is worth, and it stays that. */
final class ApprovalTest extends ScreenCase
{
    private function rate(): void
    {
        $this->db()->executeStatement(
            'INSERT INTO exchange_rate (company_id, valid_on, from_currency, to_currency, rate) '.
                "VALUES (?, '2026-01-01', 'EUR', 'USD', 1.08)",
            [$this->clerk->companyId],
        );
    }

    private function approval(int $id): string
    {
        return (string) $this->db()->fetchOne('SELECT approval FROM document WHERE id = ?', [$id]);
    }

    /** 500,000 EUR at a typed rate of 0.001 are 500.00 in the books and 540,000.00 against a limit. */
    public function testATypedRateTakesNothingBelowALimit(): void
    {
        $this->rate();
        $form = [
            'party' => 'V-1',
            'number' => 'F-1',
            'document_date' => '2026-06-10',
            'currency' => 'EUR',
            'rate' => '0.001',
            'lines' => [['account' => '5000', 'amount' => '500000.00']],
        ];
        $read = fn (array $more, bool $file = false) => self::get(InvoiceReader::class)->read(
            $this->clerk,
            Side::Payables,
            [...$form, ...$more],
            $file,
        );
        $post = self::get(PostInvoice::class);
        self::assertSame(['rate'], self::refusedFields(fn () => $post->post($this->clerk, $read([]))), 'it is asked');
        $meant = $post->post($this->clerk, $read(['rate_meant' => '1']));
        self::assertSame('awaiting', $this->approval($meant));
        // a file asks nobody, and awaits approval all the same
        self::assertSame('awaiting', $this->approval($post->post($this->clerk, $read(['number' => 'F-2'], true))));
        // ten percent off is within
        $near = $post->post(
            $this->clerk,
            $read(['number' => 'F-3', 'rate' => '1.188', 'lines' => [['account' => '5000', 'amount' => '100.00']]]),
        );
        self::assertSame('none', $this->approval($near));
        $this->db()->executeStatement('UPDATE membership SET approval_limit = 53999999 WHERE user_id = ?', [
            $this->approver->userId,
        ]);
        $decide = self::get(ChangePosted::class);
        self::assertStringContainsString(
            '540000.00',
            self::said(fn () => $decide->decide($this->approver, $meant, true)),
            'the limit holds at the table’s rate',
        );
        $this->db()->executeStatement('UPDATE membership SET approval_limit = 54000000 WHERE user_id = ?', [
            $this->approver->userId,
        ]);
        $decide->decide($this->approver, $meant, true);
        self::assertSame('approved', $this->approval($meant));
        self::assertStringContainsString('1.08', $this->page('/TEST/payables/document/'.$this->idOf('F-2'))->text());
    }

    private function idOf(string $theirNumber): int
    {
        return (int) $this->db()->fetchOne('SELECT id FROM document WHERE their_number = ?', [$theirNumber]);
    }

    public function testAnInvoiceThatWasChangedSinceIsNotApproved(): void
    {
        $id = $this->invoice(Side::Payables, '20000.00', ['terms' => 'N30']);
        $this->as('approver');
        $path = '/TEST/payables/document/'.$id;
        $old = $this->page($path)->filter('input[name="_seen"]')->attr('value');
        self::get(ChangePosted::class)->amend($this->clerk, $id, null, 'pay into the other account');
        $said = $this->post($path, $path.'/decide', ['_seen' => (string) $old, '_action' => 'approve']);
        self::assertStringContainsString('was changed since this page was loaded', $said->text());
        self::assertSame('awaiting', $this->approval($id));
        $new = $this->page($path)->filter('input[name="_seen"]')->attr('value');
        $this->post($path, $path.'/decide', ['_seen' => (string) $new, '_action' => 'approve']);
        self::assertSame('approved', $this->approval($id));
    }

    /** @return int an approved run that pays V-1 by this method */
    private function approvedRun(string $method): int
    {
        $this->invoice(Side::Payables, '100.00', ['document_date' => '2026-04-01', 'terms' => 'N30']);
        ['criteria' => $criteria, 'bankAccountId' => $bank] = self::get(CriteriaReader::class)->read($this->clerk, [
            'pay_date' => self::DAY,
            'method' => $method,
        ]);
        $id = self::get(MakeProposal::class)->make($this->clerk, $criteria, $bank, $method);
        self::get(DecideProposal::class)->decide($this->approver, $id, true);

        return $id;
    }

    /** @param array<string, mixed> $more */
    private function vendor(array $more): void
    {
        $id = (int) $this->db()->fetchOne("SELECT id FROM party WHERE code = 'V-1'");
        self::get(SaveParty::class)->save(
            $this->clerk,
            Side::Payables,
            ['code' => 'V-1', 'name' => 'Fenwick Timber', ...$more],
            $id,
            true,
        );
    }

    /** A check is made out to the name and the address that were approved. */
    public function testAPayeeIsWhoWasApproved(): void
    {
        $this->vendor(['street' => '4 Quay Street']);
        $run = $this->approvedRun('check');
        $this->vendor([
            'name' => 'Somebody Else',
            'street' => '9 Back Lane',
            'addresses' => [
                'remit' => ['name' => 'Another', 'street' => '1 Far Road', 'city' => 'Elsewhere', 'country' => 'US'],
            ],
        ]);
        $book = (int) $this->db()->fetchOne('SELECT id FROM check_book');
        self::get(PrintChecks::class)->print($this->clerk, $run, $book, 1001);
        $check = self::get(RegisterQuery::class)->toPrint($this->clerk->companyId, $run)[0];
        self::assertSame(['Fenwick Timber', '4 Quay Street'], [$check['name'], $check['street']]);
        self::assertStringContainsString(
            'Somebody Else',
            (string) $this->db()->fetchOne("SELECT GROUP_CONCAT(detail) FROM history WHERE subject = 'party'"),
            'and the change stands in the history',
        );
    }

    /** A bank file pays the account that was approved, though another one was confirmed since. */
    public function testAnAccountIsTheOneThatWasApproved(): void
    {
        $this->db()->executeStatement(
            "UPDATE bank_account SET routing_number = '021000021', account_number = '77', company_number = '1234567890'",
        );
        $this->vendor(['method' => 'transfer', 'routing_number' => '021000021', 'account_number' => '1111']);
        $run = $this->approvedRun('transfer');
        $this->vendor(['method' => 'transfer', 'routing_number' => '021000021', 'account_number' => '2222']);
        $this->postRun($run);
        $file = self::get(MakeBankFile::class)->ofRun($this->clerk, $run, FileFormat::Ach);
        $content = (string) $this->db()->fetchOne('SELECT content FROM bank_file WHERE id = ?', [$file]);
        self::assertStringContainsString('1111', $content);
        self::assertStringNotContainsString('2222', $content);
    }

    public function testNewBankDetailsStandInFullBesideTheOld(): void
    {
        $id = (int) $this->db()->fetchOne("SELECT id FROM party WHERE code = 'V-1'");
        $this->vendor(['routing_number' => '021000021', 'account_number' => '11112222']);
        self::get(SaveParty::class)->save(
            $this->clerk,
            Side::Payables,
            ['account_number' => '33334444', 'name' => 'Fenwick Timber'],
            $id,
        );
        self::get(SaveParty::class)->save(
            $this->clerk,
            Side::Payables,
            ['account_number' => '55556666', 'name' => 'Fenwick Timber'],
            $id,
        );
        $this->as('approver');
        $text = $this->page('/TEST/payables/party/'.$id)
            ->filter('aside')
            ->text();
        self::assertStringContainsString('55556666', $text);
        self::assertStringContainsString('11112222', $text, 'the last that was confirmed');
        self::assertStringNotContainsString('33334444', $text);
    }

    /** Bank accounts take receipts, payments and journal entries; no line of an invoice or a delivery, through no door. */
    public function testBankAndControlAccountsAreClosedToLines(): void
    {
        foreach (['1000', '2100', '1200'] as $account) {
            self::assertSame(
                ['lines.0.account'],
                self::refusedFields(
                    fn () => $this->invoice(Side::Payables, '1.00', [
                        'lines' => [['account' => $account, 'amount' => '1.00']],
                    ]),
                ),
            );
            $delivery = self::get(DeliveryReader::class)->read($this->clerk, [
                'party' => 'V-1',
                'delivered_on' => self::DAY,
                'lines' => [['account' => $account, 'quantity' => '1', 'price' => '1.00', 'text' => 'x']],
            ]);
            self::assertSame(['lines.0.account'], array_column($delivery->problems, 'field'));
            $errors = self::get(ImportFile::class)->import(
                $this->clerk,
                'vendor-invoices',
                "party,number,document_date,account,amount\nV-1,X-1,2026-06-10,$account,1.00\n",
            )['errors'];
            self::assertSame(['account'], array_column($errors, 'field'));
        }
    }

    public function testADraftIsNotPostedFromAnOldPage(): void
    {
        $raw = [
            'party' => 'V-1',
            'number' => 'D-1',
            'document_date' => '2026-06-10',
            'lines' => [['account' => '5000', 'amount' => '10.00']],
        ];
        $keep = self::get(KeepDraft::class);
        $draft = $keep->keep($this->clerk, Side::Payables, $raw);
        $old = $draft->version;
        $keep->keep(
            $this->clerk,
            Side::Payables,
            [...$raw, 'lines' => [['account' => '5000', 'amount' => '99.00']]],
            $draft->id(),
            $old,
        );
        $path = '/TEST/payables/invoice';
        $said = $this->post('/TEST/payables/draft/'.$draft->id(), $path, [
            ...$raw,
            '_draft' => (string) $draft->id(),
            '_version' => (string) $old,
            '_action' => 'post',
        ]);
        self::assertStringContainsString('saved this draft meanwhile', $said->text());
        self::assertSame('draft', $this->db()->fetchOne('SELECT state FROM document WHERE id = ?', [$draft->id()]));
    }

    /** What the bank has comes back by its word, or as returned, which somebody else records; nobody voids it. */
    public function testMoneyThatLeftIsReturnedNotVoided(): void
    {
        $this->db()->executeStatement(
            "UPDATE bank_account SET routing_number = '021000021', account_number = '77', company_number = '1234567890'",
        );
        $this->vendor(['method' => 'transfer', 'routing_number' => '021000021', 'account_number' => '1111']);
        $run = $this->approvedRun('transfer');
        $this->postRun($run);
        $payment = (int) $this->db()->fetchOne("SELECT id FROM document WHERE kind = 'payment'");
        $item = (int) $this->db()->fetchOne("SELECT id FROM open_item WHERE original > 0 AND side = 'payables'");
        $file = self::get(MakeBankFile::class)->ofRun($this->clerk, $run, FileFormat::Ach);
        $return = self::get(ReturnPayment::class);
        $day = Day::of(self::DAY);
        self::assertSame(
            [''],
            self::refusedFields(fn () => $return->record($this->approver, $payment, $day, 'x')),
            'not there yet',
        );
        self::get(SendBankFile::class)->send($this->clerk, $file);
        $reverse = self::get(ReverseDocument::class);
        foreach (
            [
                fn () => $reverse->reverse($this->clerk, $payment, 'x'),
                fn () => $reverse->event($this->clerk, $payment, $day, HowTakenBack::Voided, 'x'),
                fn () => $return->record($this->clerk, $payment, $day, 'x'),
                fn () => $return->record($this->approver, $payment, $day, ' '),
            ] as $refused
        ) {
            self::assertNotSame([], self::refusedFields($refused));
            self::assertSame(0, $this->open($item));
        }
        $path = '/TEST/payables/document/'.$payment;
        self::assertCount(0, $this->page($path)->filter('button[value="void"], button[value="reverse"]'));
        $this->as('approver');
        $said = $this->post($path, $path.'/returned', ['reason' => 'R03 no account']);
        self::assertStringContainsString('It came back', $said->filter('.said-done')->text());
        self::assertSame(10000, $this->open($item));
        self::assertSame('returned', $this->db()->fetchOne('SELECT state FROM bank_file_line'));
        self::assertNotSame(
            [],
            self::refusedFields(fn () => $return->record($this->approver, $payment, $day, 'x')),
            'once',
        );
    }

    /** A stop and an address that money goes to leave a line in the history when they are set, changed and taken away. */
    public function testStopsAndAddressesAreToldInTheHistory(): void
    {
        $address = ['name' => 'Another', 'street' => '1 Far Road', 'city' => 'Elsewhere', 'country' => 'US'];
        $this->vendor(['addresses' => ['remit' => $address], 'stops' => ['payment' => ['reason' => 'claim open']]]);
        $this->vendor(['addresses' => [], 'stops' => []]);
        $told = implode(
            "\n",
            $this->db()->fetchFirstColumn("SELECT detail FROM history WHERE subject = 'party' ORDER BY id"),
        );
        self::assertSame(2, substr_count($told, 'Another, 1 Far Road, Elsewhere, US'), $told);
        self::assertSame(2, substr_count($told, 'claim open'), $told);
    }

    /** What goes to a vendor before there is an invoice, or beyond one, is approved above the limit before it is placed, by any door. */
    public function testMoneyOnAccountAboveTheLimitIsApprovedBeforeItIsPlaced(): void
    {
        $invoice = $this->itemOf($this->invoice(Side::Payables, '9000.00', ['terms' => 'N30']));
        $small = $this->money(Side::Payables, 1_000_000, [], [], self::DAY, DocumentKind::Payment);
        self::assertSame('none', $this->approval($small), 'exactly at the limit');
        $payment = $this->money(
            Side::Payables,
            1_900_001,
            [new PlacementRequest($invoice, 900_000)],
            [],
            self::DAY,
            DocumentKind::Payment,
        );
        self::assertSame('awaiting', $this->approval($payment), 'what is beyond the invoice counts');
        $credit = (int) $this->db()->fetchOne('SELECT id FROM open_item WHERE document_id = ?', [$payment]);
        $other = $this->itemOf($this->invoice(Side::Payables, '500.00', ['terms' => 'N30']));
        $number = (string) $this->db()->fetchOne('SELECT number FROM document WHERE id = ?', [$payment]);
        $settle = fn (): int => self::get(SettleItems::class)->settle(
            $this->clerk,
            new SettlementRequest(
                Side::Payables,
                [new PlacementRequest($other, 50_000), new PlacementRequest($credit, -50_000)],
                [],
                Day::of(self::DAY),
                null,
                null,
                null,
                'x',
            ),
        );
        self::assertSame(['items'], self::refusedFields($settle));
        $theirs = (string) $this->db()->fetchOne(
            'SELECT d.number FROM document d JOIN open_item i ON i.document_id = d.id WHERE i.id = ?',
            [$other],
        );
        $file =
            "settlement,party,side,date,document,applied\ns,V-1,payables,2026-06-15,$theirs,500.00\n".
            "s,V-1,payables,2026-06-15,$number,500.00\n";
        self::assertNotSame(
            [],
            self::get(ImportFile::class)->import($this->clerk, 'settlements', $file)['errors'],
            'nor by a file',
        );
        self::assertSame(50_000, $this->open($other));
        self::assertSame(
            [''],
            self::refusedFields(fn () => self::get(ChangePosted::class)->decide($this->clerk, $payment, true)),
        );
        self::get(ChangePosted::class)->decide($this->approver, $payment, true);
        $settle();
        self::assertSame(0, $this->open($other));
    }

    /** An invoice that awaits approval is not set off against a credit either: on no board, by no file. */
    public function testAnUnapprovedInvoiceIsNotSettledByAnyDoor(): void
    {
        $invoice = $this->itemOf($this->invoice(Side::Payables, '20000.00', ['terms' => 'N30']));
        $credit = $this->itemOf($this->invoice(Side::Payables, '20000.00', ['kind' => 'credit_note']));
        $settle = fn (): int => self::get(SettleItems::class)->settle(
            $this->clerk,
            new SettlementRequest(
                Side::Payables,
                [new PlacementRequest($invoice, 2_000_000), new PlacementRequest($credit, -2_000_000)],
                [],
                Day::of(self::DAY),
                null,
                null,
                null,
                'x',
            ),
        );
        self::assertSame(['items'], self::refusedFields($settle));
        self::assertSame(2_000_000, $this->open($invoice));
        $document = (int) $this->db()->fetchOne('SELECT document_id FROM open_item WHERE id = ?', [$invoice]);
        self::get(ChangePosted::class)->decide($this->approver, $document, true);
        $settle();
        self::assertSame(0, $this->open($invoice));
    }

    /** Whoever changed a draft had a hand in it, and so has whoever posted it; what was changed stands in its history. */
    public function testWhoeverChangedADraftDoesNotApproveIt(): void
    {
        $form = [
            'party' => 'V-1',
            'number' => 'BIG-1',
            'document_date' => '2026-06-10',
            'lines' => [['account' => '5000', 'amount' => '20000.00']],
        ];
        $keep = self::get(KeepDraft::class);
        $draft = $keep->keep($this->clerk, Side::Payables, $form)->id();
        $changed = [...$form, 'lines' => [['account' => '5000', 'amount' => '30000.00']]];
        $keep->keep($this->approver, Side::Payables, $changed, $draft);
        self::assertStringContainsString(
            'total from 20000.00 USD to 30000.00 USD',
            str_replace(
                ['“', '”'],
                '',
                (string) $this->db()->fetchOne(
                    "SELECT detail FROM history WHERE subject = 'document' AND subject_id = ? AND action = 'changed'",
                    [$draft],
                ),
            ),
        );
        self::get(PostInvoice::class)->post(
            $this->clerk,
            self::get(InvoiceReader::class)->read($this->clerk, Side::Payables, $changed),
            draftId: $draft,
        );
        self::assertSame('awaiting', $this->approval($draft));
        $decide = self::get(ChangePosted::class);
        self::assertStringContainsString(
            'Somebody else must decide',
            self::said(fn () => $decide->decide($this->approver, $draft, true)),
        );
        self::assertSame('awaiting', $this->approval($draft));
        // and whoever posts what another one typed
        $other = $keep->keep($this->clerk, Side::Payables, [...$form, 'number' => 'BIG-2'])->id();
        self::get(PostInvoice::class)->post(
            $this->approver,
            self::get(InvoiceReader::class)->read($this->approver, Side::Payables, [
                ...$form,
                'number' => 'BIG-2',
                'look_alike_reason' => 'another',
            ]),
            draftId: $other,
        );
        self::assertStringContainsString(
            'Somebody else must decide',
            self::said(fn () => $decide->decide($this->approver, $other, true)),
        );
    }
}
