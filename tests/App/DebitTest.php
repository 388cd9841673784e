<?php

declare(strict_types=1);

namespace Nelbix\Tests\App;

use Nelbix\App\Bank\BankAccounts;
use Nelbix\App\Banking\CollectDebits;
use Nelbix\App\Banking\DebitsQuery;
use Nelbix\App\Banking\SendBankFile;
use Nelbix\App\Banking\SignMandate;
use Nelbix\App\Money\Bounce;
use Nelbix\App\Money\ClaimKind;
use Nelbix\App\Money\ClaimRequest;
use Nelbix\App\Money\MakeClaim;
use Nelbix\App\Parties\SaveParty;
use Nelbix\App\Platform\CompanySettings;
use Nelbix\App\Platform\Settings;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Formats\CreditorIdentifier;
use Nelbix\Core\Formats\Payment\BankKey;
use Nelbix\Core\Formats\Payment\DirectDebit;
use Nelbix\Core\Formats\Payment\DirectDebitFile;
use Nelbix\Core\Ledger\Side;
use Nelbix\Core\Money\Currency;

/** Direct debits: mandates, what is collected by them, the file for the bank and its answer. */
final class DebitTest extends ScreenCase
{
    use ReferenceLibrary;

    /** The example of EPC262-08; its check digits are those of the reference library's own example, too. */
    private const CREDITOR = 'DE98ZZZ09999999999';

    /** Examples of the IBAN registry (SWIFT). */
    private const IBAN = 'DE89370400440532013000';
    private const THEIRS = 'GB29NWBK60161331926819';

    private const ON = '2026-06-22';

    private int $customer;

    protected function setUp(): void
    {
        parent::setUp();
        $this->customer = (int) $this->db()->fetchOne("SELECT id FROM party WHERE code = 'C-1'");
        $this->db()->executeStatement('UPDATE bank_account SET iban = ?, bic = ?', [self::IBAN, 'COBADEFFXXX']);
        self::get(Settings::class)->keep($this->clerk->companyId, ['creditor_id' => self::CREDITOR]);
    }

    /** @param array<string, string> $more */
    private function sign(array $more = []): void
    {
        self::get(SignMandate::class)->sign($this->clerk, $this->customer, [
            'reference' => 'M-0001',
            'signed_on' => '2026-05-02',
            'iban' => self::THEIRS,
            ...$more,
        ]);
    }

    /** @return list<array<string, mixed>> */
    private function due(string $through = self::ON, string $on = self::ON): array
    {
        return self::get(DebitsQuery::class)->due(
            $this->clerk->companyId,
            self::get(BankAccounts::class)->named($this->clerk->companyId, ''),
            Day::of($through),
            Day::of($on),
        );
    }

    /** @return array{file: int, announced: int} */
    private function collect(string $on = self::ON): array
    {
        /** @var list<string> $keys */
        $keys = array_column($this->due($on, $on), 'key');

        return self::get(CollectDebits::class)->collect(
            $this->clerk,
            self::get(BankAccounts::class)->named($this->clerk->companyId, ''),
            Day::of($on),
            Day::of($on),
            $keys,
            null,
        );
    }

    private function owed(string $amount, string $dated = '2026-05-01', string $terms = 'N30'): int
    {
        return $this->itemOf(
            $this->invoice(Side::Receivables, $amount, ['document_date' => $dated, 'terms' => $terms]),
        );
    }

    public function testTheFileSaysWhatAReferenceLibrarySays(): void
    {
        $debits = [
            [
                'BF-1-1',
                'Gannet & Søns',
                self::THEIRS,
                'NWBKGB2LXXX',
                125050,
                'M-1',
                '2026-01-02',
                'RCUR',
                'CORE',
                ['CI-1', 'CI-2'],
            ],
            ['BF-1-2', 'Sanderling', self::IBAN, '', 9, 'M/2', '2025-12-31', 'FRST', 'CORE', ['CI-3']],
            ['BF-1-3', 'Turnstone', self::IBAN, '', 100000000, 'M-3', '2026-06-01', 'RCUR', 'B2B', ['CI-4']],
        ];
        $ours = DirectDebitFile::write(
            'BF-1',
            new \DateTimeImmutable('2026-06-15 08:30:00'),
            Day::of(self::ON),
            'Tamarack Nordic',
            self::CREDITOR,
            new BankKey(self::IBAN, 'COBADEFFXXX'),
            'EUR',
            array_map(
                static fn (array $d): DirectDebit => new DirectDebit(
                    $d[0],
                    $d[1],
                    new BankKey($d[2], $d[3]),
                    $d[4],
                    $d[5],
                    Day::of($d[6]),
                    $d[7],
                    $d[8],
                    $d[9],
                ),
                $debits,
            ),
        );
        // a block for each scheme and sequence, in their order
        $blocks = [];
        foreach ([2, 1, 0] as $k) {
            $d = $debits[$k];
            $blocks[] = [
                'scheme' => $d[8],
                'sequence' => $d[7],
                'debits' => [
                    [
                        'id' => $d[0],
                        'name' => $d[1],
                        'iban' => $d[2],
                        'bic' => $d[3],
                        'amount' => $d[4] / 100,
                        'mandate' => $d[5],
                        'signed' => $d[6],
                        'text' => implode(' ', $d[9]),
                    ],
                ],
            ];
        }
        $theirs = self::library(
            'debit.cjs',
            json_encode(
                [
                    'id' => 'BF-1',
                    'made' => '2026-06-15T08:30:00',
                    'date' => self::ON,
                    'name' => 'Tamarack Nordic',
                    'iban' => self::IBAN,
                    'bic' => 'COBADEFFXXX',
                    'creditor' => self::CREDITOR,
                    'blocks' => $blocks,
                ],
                \JSON_THROW_ON_ERROR,
            ),
        );
        // the names of blocks and lines are each writer's own
        $own = static fn (string $leaf): bool => 1 !== preg_match('#/(PmtInfId|InstrId|CreDtTm)=#', $leaf);
        self::assertSame(
            array_values(array_filter(self::leaves(DirectDebitFile::SPACE, $theirs), $own)),
            array_values(array_filter(self::leaves(DirectDebitFile::SPACE, $ours), $own)),
        );
    }

    public function testACreditorIdentifierHasCheckDigits(): void
    {
        self::assertSame(self::CREDITOR, CreditorIdentifier::read('de98 zzz 0999 9999 999', 'x'));
        foreach (['DE97ZZZ09999999999', 'DE98', 'D998ZZZ09999999999', 'DE98ZZZ09999999998'] as $wrong) {
            self::assertNotSame('done', self::said(static fn () => CreditorIdentifier::read($wrong, 'x')), $wrong);
        }
        $kept = CompanySettings::read(
            ['creditor_id' => 'DE98ZZZ09999999999', 'debit_notice_days' => '14'],
            Currency::of('USD'),
        );
        self::assertSame(['creditor_id' => self::CREDITOR, 'debit_notice_days' => '14'], $kept);
    }

    public function testWhatIsDueIsCollectedAnnouncedAndSettled(): void
    {
        $first = $this->owed('300.00');
        $discounted = $this->owed('1000.00', '2026-06-14', '2-10-N30');
        $this->owed('70.00', '2026-06-14');
        self::get(SaveParty::class)->save(
            $this->clerk,
            Side::Receivables,
            [
                'code' => 'C-1',
                'name' => 'Gannet Sailing School',
                'terms' => '2-10-N30',
                'default_account' => '4000',
                'email' => 'a@b.example',
            ],
            $this->customer,
        );
        self::assertSame([], $this->due(), 'nobody signed anything');
        $this->sign();
        self::assertSame(
            [[$first], 30000, 'FRST'],
            [array_column($this->due()[0]['items'], 'id'), $this->due()[0]['amount'], $this->due()[0]['sequence']],
        );
        // due later, but by the same day its discount still holds
        $all = $this->due('2026-07-20');
        self::assertSame([2000, 0 + 30000 + 98000 + 7000], [$all[0]['items'][1]['discount'], $all[0]['amount']]);
        self::assertContains($discounted, array_column($all[0]['items'], 'id'));

        $made = $this->collect();
        self::assertSame(1, $made['announced']);
        self::assertSame([0, 30000], [$this->open($first), $this->balance('1000')]);
        self::assertStringContainsString(
            'Announcement of a direct debit',
            (string) $this->db()->fetchOne('SELECT subject FROM outbox'),
        );
        self::assertSame([], $this->due(), 'nothing is collected twice');
        $said = self::get(SendBankFile::class)->send($this->clerk, $made['file']);
        self::assertSame(['accepted' => 1, 'rejected' => 0], $said);
        self::assertStringContainsString(
            'pain.008.001.08',
            (string) $this->db()->fetchOne('SELECT answer FROM bank_file'),
        );
        $page = $this->page('/TEST/receivables/debits/'.$made['file']);
        self::assertStringContainsString('accepted', $page->filter('tbody')->text());
        // the next one by the same mandate is no first one
        $this->owed('12.00');
        self::assertSame('RCUR', $this->due()[0]['sequence']);
        // it comes back: bounced, and owed again
        $receipt = (int) $this->db()->fetchOne('SELECT document_id FROM bank_file_line');
        self::get(Bounce::class)->record(
            $this->clerk,
            $receipt,
            Day::of('2026-06-25'),
            'MD06 refund asked for',
            0,
            false,
        );
        self::assertSame([30000, 0], [$this->open($first), $this->balance('1000')]);
        self::assertStringContainsString(
            'taken back',
            $this->page('/TEST/receivables/debits/'.$made['file'])
                ->filter('tbody')
                ->text(),
        );
    }

    /** What was posted for the sake of a file goes with it: the receipts are taken back, and it is collected anew. */
    public function testAFileThatHasNotGoneIsWithdrawnWithWhatItCollected(): void
    {
        $item = $this->owed('300.00');
        $this->sign();
        $made = $this->collect();
        $receipt = (int) $this->db()->fetchOne('SELECT document_id FROM bank_file_line');
        self::assertSame(
            [''],
            self::refusedFields(
                fn () => self::get(Bounce::class)->record($this->clerk, $receipt, Day::of(self::ON), 'MD06', 0, false),
            ),
            'the bank does not have it',
        );
        self::assertSame(0, $this->open($item));
        $at = '/TEST/receivables/debits/'.$made['file'];
        self::assertStringContainsString(
            'is withdrawn; 1 receipt is taken back.',
            $this->post($at, $at.'/withdraw', ['reason' => 'wrong day'])->text(),
        );
        self::assertSame([30000, 0], [$this->open($item), $this->balance('1000')]);
        self::assertSame(
            [''],
            self::refusedFields(fn () => self::get(SendBankFile::class)->send($this->clerk, $made['file'])),
        );
        self::assertSame('FRST', $this->due()[0]['sequence']);
        self::assertStringContainsString(
            'withdrawn on 22 Jun 2026 by',
            $this->page('/TEST/receivables/document/'.$receipt)->text(),
        );
        $this->collect();
        self::assertSame([0, 30000], [$this->open($item), $this->balance('1000')]);
    }

    public function testWhatTheBankRejectsIsOwedAgainAndTheNextIsAFirstOne(): void
    {
        $item = $this->owed('300.00');
        $this->sign();
        $made = $this->collect();
        $line = (string) $this->db()->fetchOne('SELECT end_to_end FROM bank_file_line');
        self::get(SendBankFile::class)->send($this->clerk, $made['file'], false, [$line]);
        self::assertSame([30000, 0], [$this->open($item), $this->balance('1000')]);
        self::assertSame('FRST', $this->due()[0]['sequence']);
    }

    public function testNeverAClaimNorWhatIsHeld(): void
    {
        $item = $this->owed('300.00');
        $this->sign();
        self::get(MakeClaim::class)->make(
            $this->clerk,
            new ClaimRequest($item, 10000, ClaimKind::Disputed, 'scratched'),
            Day::of(self::DAY),
        );
        self::assertSame(20000, $this->due()[0]['amount']);
        $this->db()->executeStatement(
            "UPDATE document SET held_reason = 'look' WHERE id = (SELECT document_id FROM open_item WHERE id = ?)",
            [$item],
        );
        self::assertSame([], $this->due());
    }

    public function testWhatMayNotBe(): void
    {
        $this->owed('300.00');
        foreach (
            [
                'reference' => 'Mändat',
                'signed_on' => '2026-06-16',
                'iban' => 'GB29NWBK60161331926818',
                'bic' => 'XX',
                'scheme' => 'ANY',
            ] as $field => $wrong
        ) {
            self::assertSame([$field], self::refusedFields(fn () => $this->sign([$field => $wrong])), $field);
        }
        $this->sign();
        self::assertSame(['reference'], self::refusedFields(fn () => $this->sign()), 'a reference is used once');
    }

    public function testItIsAnnouncedInTimeAndOnlyByAMandateThatHolds(): void
    {
        $this->owed('300.00');
        $this->sign();
        self::assertStringContainsString(
            'announced 5 days before; collect on 20 Jun 2026 or later',
            self::said(fn () => $this->collect('2026-06-19')),
        );
        self::get(Settings::class)->keep($this->clerk->companyId, ['creditor_id' => '']);
        self::assertStringContainsString('no creditor identifier', self::said(fn () => $this->collect()));
        self::get(Settings::class)->keep($this->clerk->companyId, ['creditor_id' => self::CREDITOR]);
        self::assertCount(1, $this->due());
        $this->db()->executeStatement("UPDATE mandate SET signed_on = '2023-06-20'");
        self::assertSame([], $this->due(), 'unused for 36 months');
        $this->db()->executeStatement("UPDATE mandate SET signed_on = '2026-06-01', once = 1");
        self::assertSame(['OOFF'], array_column($this->due(), 'sequence'));
        $this->collect();
        $this->owed('10.00');
        self::assertSame([], $this->due(), 'once is once');
        $id = (int) $this->db()->fetchOne('SELECT id FROM mandate');
        self::get(\Doctrine\ORM\EntityManagerInterface::class)->clear();
        self::assertStringContainsString(
            'Say why',
            self::said(fn () => self::get(SignMandate::class)->end($this->clerk, $id, '')),
        );
        self::get(SignMandate::class)->end($this->clerk, $id, 'they left the bank');
        self::assertStringContainsString(
            'ended on',
            self::said(fn () => self::get(SignMandate::class)->end($this->clerk, $id, 'again')),
        );
    }

    public function testByTheScreensAndAnOldPageIsRefused(): void
    {
        $this->owed('300.00');
        $page = '/TEST/receivables/party/'.$this->customer;
        $wrong = $this->post($page, $page.'/mandates', [
            'reference' => 'M-7',
            'signed_on' => '2026-06-01',
            'iban' => substr(self::THEIRS, 0, -1).'8',
            'once' => 'yes',
        ]);
        self::assertSame('M-7', $wrong->filter('#mandate-reference')->attr('value'), 'nothing that was typed is lost');
        self::assertNotSame('', $wrong->filter('#e-mandate-iban')->text());
        self::assertNotNull($wrong->filter('#mandate-once option[value=yes]')->attr('selected'));
        self::assertSame('', $this->page($page)->filter('#mandate-reference')->attr('value'));
        $this->post($page, $page.'/mandates', [
            'reference' => 'M-7',
            'signed_on' => '2026-06-01',
            'iban' => self::THEIRS,
        ]);
        self::assertStringContainsString('M-7', $this->page($page)->text());
        $list = $this->page('/TEST/receivables/debits?on='.self::ON);
        $key = (string) $list->filter('input[name="debits[]"]')->attr('value');
        $fields = ['debits' => [$key], 'on' => self::ON, 'through' => self::ON, 'bank' => '1000'];
        $this->owed('5.00', '2026-05-02');
        $said = $this->post('/TEST/receivables/debits', '/TEST/receivables/debits', [...$fields, '_key' => 'a']);
        self::assertStringContainsString('changed since this page was loaded', $said->filter('.said-refused')->text());
        self::assertSame('22 Jun 2026', $said->filter('input[name=through]')->first()->attr('value'), 'the same list');
        $key = (string) $this->page('/TEST/receivables/debits?on='.self::ON)
            ->filter('input[name="debits[]"]')
            ->attr('value');
        $said = $this->post('/TEST/receivables/debits', '/TEST/receivables/debits', [
            ...$fields,
            'debits' => [$key],
            '_key' => 'b',
        ]);
        self::assertStringContainsString(
            '305.00 USD on 22 Jun 2026. 0 announcements lie in the outbox, 1 is to be printed',
            $said->filter('.said-done')->text(),
        );
        $file = (int) $this->db()->fetchOne('SELECT id FROM bank_file');
        $this->browser->request('GET', "/TEST/receivables/debits/$file/notices.pdf");
        self::assertStringStartsWith('%PDF', (string) $this->browser->getResponse()->getContent());
        // who pays vendors finds no payments in it
        $this->browser->request('GET', "/TEST/bank/files/$file");
        self::assertSame(404, $this->browser->getResponse()->getStatusCode());
    }
}
