<?php

declare(strict_types=1);

namespace Nelbix\Tests\App;

use Nelbix\App\Bank\SaveBankAccount;
use Nelbix\App\Banking\FileFormat;
use Nelbix\App\Banking\MakeBankFile;
use Nelbix\App\Banking\SendBankFile;
use Nelbix\App\Banking\SendToPrinter;
use Nelbix\App\Banking\TakeAnswer;
use Nelbix\App\Banking\TellPrinter;
use Nelbix\App\Banking\WithdrawFile;
use Nelbix\App\Books\HowTakenBack;
use Nelbix\App\Books\ReverseDocument;
use Nelbix\App\Books\UndoSettlement;
use Nelbix\App\Parties\SaveParty;
use Nelbix\App\Payables\CriteriaReader;
use Nelbix\App\Payables\DecideProposal;
use Nelbix\App\Payables\MakeProposal;
use Nelbix\App\Platform\StandIns;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Formats\Payment\AchFile;
use Nelbix\Core\Formats\Payment\BankKey;
use Nelbix\Core\Formats\Payment\CreditTransferFile;
use Nelbix\Core\Formats\Payment\Masked;
use Nelbix\Core\Formats\Payment\PaymentOrder;
use Nelbix\Core\Formats\Payment\PaymentStatus;
use Nelbix\Core\Formats\Payment\Transfer;
use Nelbix\Core\Ledger\Side;
use Nelbix\Core\Refused;

/** Bank files: their formats against reference libraries, and their way from a posted run to the bank's answer. */
final class BankFileTest extends ScreenCase
{
    use ReferenceLibrary;

    private const PAIN_001 = 'urn:iso:std:iso:20022:tech:xsd:pain.001.001.09';

    /** @return non-empty-list<Transfer> */
    private static function transfers(int $count): array
    {
        // 021000021, 011401533 and 091000019 pass the check digit of routing numbers; the names are invented
        return array_map(
            static fn (int $n): Transfer => new Transfer(
                'PY-26-'.str_pad((string) $n, 5, '0', \STR_PAD_LEFT),
                'Vendør & Søns '.$n,
                new BankKey(
                    'DE89370400440532013000',
                    'COBADEFFXXX',
                    ['021000021', '011401533', '091000019'][$n % 3],
                    'ACC'.$n,
                ),
                mt_rand(1, 9_000_000),
                'DK',
                [['number' => 'INV*'.$n, 'amount' => 500], ['number' => 'B-'.$n, 'amount' => -100]],
            ),
            range(1, max(1, $count)),
        );
    }

    /** @param non-empty-list<Transfer> $transfers */
    private static function order(
        array $transfers,
        string $currency = 'USD',
        string $accountCurrency = 'USD',
    ): PaymentOrder {
        return new PaymentOrder(
            'BF-26-00001',
            new \DateTimeImmutable('2026-06-15 08:30:00'),
            Day::of('2026-06-16'),
            'Tamarack Boatworks',
            $currency,
            new BankKey('DE40987654329876543210', 'NTSBDEB1XXX', '021000021', '777001'),
            $accountCurrency,
            'Harbor Trust',
            '9123456789',
            $transfers,
        );
    }

    /** Payments in one currency may come out of an account in another, as a bank sees it. */
    public function testTheAccountHasItsOwnCurrency(): void
    {
        $xml = simplexml_load_string((new CreditTransferFile())->write(self::order(self::transfers(1), 'EUR', 'USD')));
        $payment = ($xml ?: self::fail('not well-formed'))->CstmrCdtTrfInitn->PmtInf;
        self::assertSame('USD', (string) $payment->DbtrAcct->Ccy);
        self::assertSame('EUR', (string) $payment->CdtTrfTxInf->Amt->InstdAmt['Ccy']);
    }

    public function testAchIsReadByAReferenceLibraryAndItsTotalsAreRight(): void
    {
        mt_srand(3);
        foreach ([[1, false], [3, true], [14, true], [60, false]] as [$count, $balanced]) {
            $order = self::order(self::transfers($count));
            $file = (new AchFile($balanced))->write($order);
            self::assertSame($file, (new AchFile($balanced))->write($order), 'the same order is the same file');
            $lines = explode("\n", rtrim($file));
            self::assertSame([94], array_values(array_unique(array_map(strlen(...), $lines))));
            self::assertSame(0, \count($lines) % 10);
            $read = json_decode(self::library('ach.cjs', $file), true, 32, \JSON_THROW_ON_ERROR);
            $batch = $read['batches'][0];
            $credits = array_values(
                array_filter($batch['entries'], static fn (array $e): bool => '22' === (string) $e['transactionCode']),
            );
            self::assertSame(
                array_map(
                    static fn (Transfer $t): array => [$t->amount, $t->to->account, substr(strtoupper($t->id), 0, 15)],
                    $order->transfers,
                ),
                array_map(
                    static fn (array $e): array => [$e['amount'], $e['dfiAccount'], $e['identificationNumber']],
                    $credits,
                ),
            );
            self::assertSame('RMR*IV*INV 1**5.00\\RMR*IV*B-1**-1.00\\', $credits[0]['addenda']['info']);
            $debits = $balanced ? $order->total() : 0;
            $hash =
                array_sum(
                    array_map(static fn (Transfer $t): int => (int) substr($t->to->routing, 0, 8), $order->transfers),
                ) + ($balanced ? 2100002 : 0);
            $entries = 2 * $count + (int) $balanced;
            foreach ([$batch['footer'], $read['file']['footer']] as $footer) {
                self::assertSame(
                    [$entries, $hash % 10_000_000_000, $debits, $order->total()],
                    [
                        $footer['entryAndAddendaCount'],
                        $footer['entryHash'],
                        $footer['totalDebit'],
                        $footer['totalCredit'],
                    ],
                );
            }
            self::assertSame(
                [1, \count($lines) / 10],
                [$read['file']['footer']['batchCount'], $read['file']['footer']['blockCount']],
            );
            self::assertSame($balanced ? 200 : 220, $batch['serviceClassCode']);
        }
    }

    public function testCreditTransfersSayWhatAReferenceLibrarySays(): void
    {
        mt_srand(4);
        $order = self::order(self::transfers(5), 'EUR');
        $ours = self::leaves(self::PAIN_001, (new CreditTransferFile())->write($order));
        $theirs = self::leaves(
            self::PAIN_001,
            self::library(
                'sepa.cjs',
                json_encode(
                    [
                        'id' => $order->id,
                        'made' => '2026-06-15T08:30:00',
                        'date' => '2026-06-16',
                        'name' => $order->name,
                        'iban' => $order->from->iban,
                        'bic' => $order->from->bic,
                        'transfers' => array_map(
                            static fn (Transfer $t): array => [
                                'name' => $t->name,
                                'iban' => $t->to->iban,
                                'bic' => $t->to->bic,
                                'amount' => $t->amount / 100,
                                'id' => $t->id,
                                'text' => implode(' ', array_column($t->pays, 'number')),
                            ],
                            $order->transfers,
                        ),
                    ],
                    \JSON_THROW_ON_ERROR,
                ),
            ),
        );
        // what a SEPA file adds of its own, and where the standard leaves the choice: batch booking, the name of the block,
        // the marks of remittance texts
        $own = static fn (string $leaf): bool => 1 !==
            preg_match(
                '#/(PmtTpInf|ChrgBr|BtchBookg|PmtInfId|InstrId|PstlAdr|RmtInf|CreDtTm|Nm=Vend|OrgId|Ccy=)#',
                $leaf,
            );
        self::assertSame(array_values(array_filter($theirs, $own)), array_values(array_filter($ours, $own)));
        self::assertCount(
            5,
            array_filter($ours, static fn (string $l): bool => str_contains($l, '/Cdtr/Nm=Vendør & Søns')),
        );
    }

    public function testWhatAFormatCannotPayIsRefusedByName(): void
    {
        $refused = static function (callable $write): string {
            try {
                $write();
            } catch (Refused $e) {
                return $e->getMessage();
            }
            self::fail('It was written.');
        };
        $nobody = [new Transfer('PY-1', 'Nobody', new BankKey(), 100)];
        self::assertStringContainsString(
            'Nobody has no routing',
            $refused(static fn () => (new AchFile(false))->write(self::order($nobody))),
        );
        self::assertStringContainsString(
            'Nobody has no bank account',
            $refused(static fn () => (new CreditTransferFile())->write(self::order($nobody))),
        );
        self::assertStringContainsString(
            'ACH pays in USD',
            $refused(static fn () => (new AchFile(false))->write(self::order(self::transfers(1), 'EUR'))),
        );
        self::assertStringContainsString(
            'does not fit',
            $refused(
                static fn () => (new AchFile(false))->write(
                    self::order([new Transfer('PY-1', 'Rich', new BankKey('', '', '021000021', '1'), 10_000_000_000)]),
                ),
            ),
        );
    }

    /** @return array{int, array<string, int>} a posted run with two transfers and a card, and the items */
    private function postedRun(): array
    {
        $bank = (int) $this->db()->fetchOne('SELECT id FROM bank_account WHERE company_id = ?', [
            $this->clerk->companyId,
        ]);
        self::get(SaveBankAccount::class)->save(
            $this->clerk,
            [
                'name' => 'Harbor Trust',
                'routing_number' => '021000021',
                'account_number' => '777001',
                'company_number' => '9123456789',
                'balanced' => 'yes',
            ],
            $bank,
        );
        $items = [];
        foreach (
            ['V-A' => ['transfer', '011401533'], 'V-B' => ['transfer', '091000019'], 'V-C' => ['card', '']] as $code => [$method, $routing]
        ) {
            self::get(SaveParty::class)->save(
                $this->clerk,
                Side::Payables,
                [
                    'code' => $code,
                    'name' => 'Vendor '.$code,
                    'terms' => '2-10-N30',
                    'default_account' => '5000',
                    'method' => $method,
                    'routing_number' => $routing,
                    'account_number' => '' === $routing ? '' : '55'.substr($code, -1),
                ],
                null,
                true,
            );
            $items[$code] = $this->itemOf($this->invoice(Side::Payables, '1000.00', ['party' => $code]));
        }
        ['criteria' => $criteria, 'bankAccountId' => $bank] = self::get(CriteriaReader::class)->read($this->clerk, [
            'pay_date' => self::DAY,
            'due_through' => '2026-07-31',
            'method' => 'all',
        ]);
        $id = self::get(MakeProposal::class)->make($this->clerk, $criteria, $bank, 'all');
        self::get(DecideProposal::class)->decide($this->approver, $id, true);
        self::assertSame(
            [''],
            self::refusedFields(fn () => self::get(MakeBankFile::class)->ofRun($this->clerk, $id, FileFormat::Ach)),
            'not before it is posted',
        );
        $this->postRun($id);

        return [$id, $items];
    }

    /** Without the demo's stand-ins a file is handed over, and what the bank answers is said or taken. */
    public function testAFileIsHandedOverWhereNobodyAnswersByWire(): void
    {
        [$run, $items] = $this->postedRun();
        $file = self::get(MakeBankFile::class)->ofRun($this->clerk, $run, FileFormat::Ach);
        self::get(StandIns::class)->here = false;
        $send = self::get(SendBankFile::class);
        $take = self::get(TakeAnswer::class);
        $first = (string) $this->db()->fetchOne('SELECT end_to_end FROM bank_file_line ORDER BY id LIMIT 1');
        self::assertSame([''], self::refusedFields(fn () => $send->send($this->clerk, $file)), 'there is no wire');
        self::assertSame(['file'], self::refusedFields(fn () => $take->said($this->clerk, $file, [], '')), 'not yet');
        $send->handOver($this->clerk, $file);
        self::assertSame(
            [''],
            self::refusedFields(fn () => $send->handOver($this->clerk, $file)),
            'not twice unnoticed',
        );
        self::assertSame(['reason'], self::refusedFields(fn () => $take->said($this->clerk, $file, [$first], ' ')));
        self::assertSame(['file'], self::refusedFields(fn () => $take->said($this->clerk, $file, ['none'], 'x')));
        self::assertSame(0, $this->open($items['V-A']), 'nothing is decided yet');
        self::assertSame(
            ['accepted' => 1, 'rejected' => 1],
            $take->said($this->clerk, $file, [$first], 'account closed'),
        );
        self::assertSame([100000, 0], [$this->open($items['V-A']), $this->open($items['V-B'])]);
        self::assertSame(['file'], self::refusedFields(fn () => $take->said($this->clerk, $file, [], '')), 'answered');
        self::assertSame([''], self::refusedFields(fn () => self::get(SendToPrinter::class)->send($this->clerk, $run)));
        self::assertSame(
            ['page'],
            self::refusedFields(fn () => self::get(TellPrinter::class)->jamAt($this->clerk, '2')),
        );
    }

    public function testFromARunToTheBanksAnswerAndBackToOpen(): void
    {
        [$run, $items] = $this->postedRun();
        $file = self::get(MakeBankFile::class)->ofRun($this->clerk, $run, FileFormat::Ach);
        $row = $this->db()->fetchAssociative('SELECT * FROM bank_file WHERE id = ?', [$file]) ?: [];
        self::assertSame(['BF-26-00001', 2, 196000], [$row['number'], (int) $row['payments'], (int) $row['amount']]);
        self::assertSame(
            [''],
            self::refusedFields(fn () => self::get(MakeBankFile::class)->ofRun($this->clerk, $run, FileFormat::Iso)),
            'a payment is in one file',
        );
        $first = (string) $this->db()->fetchOne('SELECT end_to_end FROM bank_file_line ORDER BY id LIMIT 1');
        self::assertSame(
            ['file'],
            self::refusedFields(
                fn () => self::get(TakeAnswer::class)->take(
                    $this->clerk,
                    $file,
                    (new PaymentStatus('BF-26-00001', 'ACCP', []))->write(new \DateTimeImmutable()),
                ),
            ),
            'no answer before it is sent',
        );
        self::assertSame(
            ['accepted' => 1, 'rejected' => 1],
            self::get(SendBankFile::class)->send($this->clerk, $file, false, [$first]),
        );
        self::assertSame(
            [100000, 0, 0],
            [$this->open($items['V-A']), $this->open($items['V-B']), $this->open($items['V-C'])],
            'the rejected one is open again, its discount too',
        );
        self::assertSame(-196000, $this->balance('1000'));
        self::assertSame(-4000, $this->balance('5900'));
        self::assertSame(
            [''],
            self::refusedFields(fn () => self::get(SendBankFile::class)->send($this->clerk, $file)),
            'not twice unnoticed',
        );
        self::assertSame(
            ['accepted' => 0, 'rejected' => 0],
            self::get(SendBankFile::class)->send($this->clerk, $file, true),
            'the bank knows it already, and nothing changes',
        );
        self::assertSame(-196000, $this->balance('1000'));
        self::assertSame(
            ['file'],
            self::refusedFields(
                fn () => self::get(TakeAnswer::class)->take(
                    $this->clerk,
                    $file,
                    (new PaymentStatus('BF-26-09999', 'RJCT', []))->write(new \DateTimeImmutable()),
                ),
            ),
        );
        self::assertSame(
            ['file'],
            self::refusedFields(
                fn () => self::get(TakeAnswer::class)->take($this->clerk, $file, '<!DOCTYPE x><Document/>'),
            ),
        );
    }

    public function testTheScreensAndAWholeFileRejected(): void
    {
        [$run, $items] = $this->postedRun();
        $page = $this->post('/TEST/payables/proposal/'.$run, '/TEST/bank/files/make', [
            'run' => (string) $run,
            'format' => 'ach',
        ]);
        self::assertStringContainsString('BF-26-00001', $page->filter('h1')->text());
        $url = (string) parse_url((string) $this->browser->getRequest()->getUri(), \PHP_URL_PATH);
        $this->browser->request('GET', $url.'/content');
        self::assertStringStartsWith('101 021000021', (string) $this->browser->getResponse()->getContent());
        $sent = $this->post($url, $url.'/send', ['whole' => 'yes']);
        self::assertStringContainsString('0 accepted, 2 rejected', $sent->filter('.said-done')->text());
        self::assertSame([100000, 100000], [$this->open($items['V-A']), $this->open($items['V-B'])]);
        self::assertStringContainsString(
            'BF-26-00001',
            $this->browser->request('GET', '/TEST/bank/files')->filter('table.list')->text(),
        );
        $prenotes = $this->post('/TEST/bank/files', '/TEST/bank/files/make', [
            'bank' => (string) $this->db()->fetchOne('SELECT id FROM bank_account WHERE company_id = ?', [
                $this->clerk->companyId,
            ]),
        ]);
        self::assertStringContainsString(
            '2 accounts are tested with an amount of zero',
            $prenotes->filter('main')->text(),
        );
        self::assertSame(
            2,
            preg_match_all(
                '/^623/m',
                (string) $this->db()->fetchOne('SELECT content FROM bank_file ORDER BY id DESC LIMIT 1'),
            ),
        );
        self::assertSame(
            [''],
            self::refusedFields(
                fn () => self::get(MakeBankFile::class)->prenotes(
                    $this->clerk,
                    (int) $this->db()->fetchOne('SELECT id FROM bank_account WHERE company_id = ?', [
                        $this->clerk->companyId,
                    ]),
                    Day::of(self::DAY),
                ),
            ),
            'once is enough',
        );
        $this->as('receivables');
        $this->browser->request('GET', $url);
        self::assertSame(403, $this->browser->getResponse()->getStatusCode());
        $this->as('auditor');
        $this->browser->request('GET', $url.'/content');
        self::assertSame(
            403,
            $this->browser->getResponse()->getStatusCode(),
            'who only reads sees the page, and no file leaves',
        );
    }

    /** What would be paid by a file is not void; a file that has not gone is withdrawn first, and the others get one anew. */
    public function testAPaymentInAFileIsVoidedOnceTheFileIsWithdrawn(): void
    {
        [$run, $items] = $this->postedRun();
        $file = self::get(MakeBankFile::class)->ofRun($this->clerk, $run, FileFormat::Ach);
        [$payment, $other] = array_map(
            'intval',
            $this->db()->fetchFirstColumn('SELECT document_id FROM bank_file_line ORDER BY id'),
        );
        $reverse = self::get(ReverseDocument::class);
        $void = fn (bool $bankSaid = false): int => $reverse->event(
            $this->clerk,
            $payment,
            Day::of(self::DAY),
            HowTakenBack::Voided,
            'twice',
            $bankSaid,
        );
        self::get(UndoSettlement::class)->undo(
            $this->clerk,
            (int) $this->db()->fetchOne('SELECT MAX(l.settlement_id) FROM settlement_line l WHERE l.item_id = ?', [
                $items['V-B'],
            ]),
            Day::of(self::DAY),
        );
        foreach (
            [
                'voided' => $void,
                'reversed' => fn (): int => $reverse->reverse($this->clerk, $other, 'mistake'),
                'said by the bank' => static fn (): int => $void(true),
            ] as $door => $act
        ) {
            try {
                $act();
                self::fail($door);
            } catch (Refused $e) {
                self::assertStringContainsString('in bank file BF-26-00001', $e->getMessage(), $door);
            }
        }
        $page = $this->page('/TEST/payables/document/'.$payment);
        self::assertStringContainsString('BF-26-00001, not sent', $page->filter('main, #main, body')->text());
        self::assertCount(0, $page->filter('[data-dialog=take-back]'));
        $at = '/TEST/bank/files/'.$file;
        // of account numbers the page shows the last four
        $content = (string) $this->db()->fetchOne('SELECT content FROM bank_file WHERE id = ?', [$file]);
        $source = $this->page($at)->filter('pre.source')->text(null, false);
        self::assertSame(Masked::of($content), $source);
        self::assertNotSame($content, $source);
        self::assertCount(1, $page->filter('footer a[href="'.$at.'"]'));
        self::assertStringContainsString(
            'Say why the file is withdrawn',
            $this->post($at, $at.'/withdraw', ['reason' => ' '])->text(),
        );
        self::assertStringContainsString(
            'BF-26-00001 is withdrawn. Its payments wait for another file',
            $this->post($at, $at.'/withdraw', ['reason' => 'one too many'])->text(),
        );
        self::assertSame(['without_file' => [2, 196000]], $this->waits());
        foreach (
            [
                'sent' => fn () => self::get(SendBankFile::class)->send($this->clerk, $file),
                'handed over' => fn () => self::get(SendBankFile::class)->handOver($this->clerk, $file),
                'answered' => fn () => self::get(TakeAnswer::class)->said($this->clerk, $file, [], ''),
                'withdrawn again' => fn () => self::get(WithdrawFile::class)->withdraw($this->clerk, $file, 'again'),
            ] as $door => $act
        ) {
            self::assertCount(1, self::refusedFields($act), $door);
        }
        $page = $this->page($at);
        self::assertStringContainsString('It does not go to the bank', $page->text());
        self::assertCount(0, $page->filter('button[form=send], input[name=reason], a[href$=content]'));
        $this->browser->request('GET', $at.'/content');
        self::assertSame(404, $this->browser->getResponse()->getStatusCode(), 'nor is it fetched to be taken there');
        $void();
        self::assertSame(100000, $this->open($items['V-A']));
        $offer = $this->page('/TEST/payables/proposal/'.$run)->filter('form[action$="/bank/files/make"]');
        self::assertStringContainsString('1 payment waits for a file', $offer->text());
        $this->browser->submit($offer->form(), ['format' => 'ach']);
        $anew = (int) $this->db()->fetchOne('SELECT MAX(id) FROM bank_file');
        self::assertSame(
            [['BF-26-00002', $other]],
            $this->db()->fetchAllNumeric(
                'SELECT f.number, l.document_id FROM bank_file f JOIN bank_file_line l ON l.bank_file_id = f.id WHERE f.id = ?',
                [$anew],
            ),
        );
        self::get(SendBankFile::class)->send($this->clerk, $anew);
        self::assertSame(
            [''],
            self::refusedFields(fn () => self::get(WithdrawFile::class)->withdraw($this->clerk, $anew, 'too late')),
            'it went to the bank',
        );
    }

    /** A lock holds on one node of a cluster: whoever voids the payment at another meets a row that was written. */
    public function testWhatGoesIntoAFileIsWritten(): void
    {
        [$run] = $this->postedRun();
        $version = fn (): int => (int) $this->db()->fetchOne(
            'SELECT SUM(d.version) FROM document d JOIN proposal_payment y ON y.document_id = d.id WHERE y.proposal_id = ?',
            [$run],
        );
        $before = $version();
        self::get(MakeBankFile::class)->ofRun($this->clerk, $run, FileFormat::Ach);
        self::assertGreaterThan($before, $version());
    }

    public function testAChangedAccountIsNotPaidInto(): void
    {
        [$run] = $this->postedRun();
        self::get(SaveParty::class)->save(
            $this->clerk,
            Side::Payables,
            ['name' => 'Vendor V-A', 'account_number' => '999'],
            (int) $this->db()->fetchOne("SELECT id FROM party WHERE code = 'V-A'"),
        );
        self::assertSame(
            [''],
            self::refusedFields(fn () => self::get(MakeBankFile::class)->ofRun($this->clerk, $run, FileFormat::Ach)),
        );
        self::assertSame(0, (int) $this->db()->fetchOne('SELECT COUNT(*) FROM bank_file'));
    }

    /** Today lists what is posted and has not reached the bank: transfers in no file, files that were not sent, what it rejected. */
    public function testTodayListsWhatHasNotReachedTheBank(): void
    {
        [$run] = $this->postedRun();
        self::assertSame(['without_file' => [2, 196000]], $this->waits());
        $file = self::get(MakeBankFile::class)->ofRun($this->clerk, $run, FileFormat::Ach);
        self::assertSame(['not_sent' => [1, 196000]], $this->waits());
        $first = (string) $this->db()->fetchOne('SELECT end_to_end FROM bank_file_line ORDER BY id LIMIT 1');
        self::get(SendBankFile::class)->send($this->clerk, $file, false, [$first]);
        self::assertSame(['rejected' => [1, 100000]], $this->waits());
    }

    /** @return array<string, array{int, int}> count and amount of the lines about transfers */
    private function waits(): array
    {
        $company = self::get(\Doctrine\ORM\EntityManagerInterface::class)->find(
            \Nelbix\App\Platform\Company::class,
            $this->clerk->companyId,
        );
        $user = self::get(\Doctrine\ORM\EntityManagerInterface::class)->find(
            \Nelbix\App\People\User::class,
            $this->clerk->userId,
        );
        self::assertNotNull($company);
        self::assertNotNull($user);
        $lines = [];
        $desk = new \Nelbix\App\Platform\Desk($company, $user, $this->clerk, Day::of(self::DAY));
        foreach (self::get(\Nelbix\App\Banking\WaitingTransfers::class)->lines($desk) as $line) {
            if ($line->count > 0) {
                $lines[$line->key] = [$line->count, $line->amount];
            }
        }

        return $lines;
    }
}
