<?php

declare(strict_types=1);

namespace Nelbix\Tests\App;

use Doctrine\ORM\EntityManagerInterface;
use Nelbix\App\Platform\BooksDay;
use Nelbix\App\Platform\Settings;
use Nelbix\App\Setup\KeepCompany;
use Nelbix\App\Setup\NewCompany\CreateCompany;
use Nelbix\App\Setup\TermForm;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Ledger\Side;
use Nelbix\Core\Terms\PaymentTerm;
use PHPUnit\Framework\Attributes\DataProvider;
use Symfony\Component\Clock\MockClock;
use Symfony\Component\DomCrawler\Crawler;
use Symfony\Component\Process\Process;

/** The setup screens: terms as sentences, coded records, import and export. */
final class SetupTest extends ScreenCase
{
    /** @return iterable<array{array<string, string>}> */
    public static function specs(): iterable
    {
        yield [
            [
                'runs_from' => 'document',
                'net' => '30',
                'windows' => '',
                'discounts' => '2@10 1@20',
                'instalments' => '',
                'grace_days' => '2',
            ],
        ];
        yield [
            [
                'runs_from' => 'asked',
                'net' => '+1m31',
                'windows' => '1-15:+1m10 16-31:+2m10',
                'discounts' => '2@+0m',
                'instalments' => '',
                'grace_days' => '0',
            ],
        ];
        yield [
            [
                'runs_from' => 'posting',
                'net' => '-1m5',
                'windows' => '',
                'discounts' => '',
                'instalments' => '33.4@30 66.6@+3m15',
                'grace_days' => '0',
            ],
        ];
    }

    /**
     * What the sentences show, they read back to the same term.
     *
     * @param array<string, string> $spec
     */
    #[DataProvider('specs')]
    public function testSentencesAndSpecAgree(array $spec): void
    {
        self::assertEquals($spec, array_intersect_key(TermForm::toSpec(TermForm::fromSpec($spec)), $spec));
        self::assertEquals($spec, PaymentTerm::fromSpec($spec)->toSpec());
    }

    public function testTermsAreWordedTriedKeptAndRetired(): void
    {
        $days = static fn (string $n, string $percent = ''): array => [
            'how' => 'days',
            'n' => $n,
            'k' => '',
            'percent' => $percent,
        ];
        $form = [
            'code' => 'NEW',
            'text' => 'three steps',
            'use' => 'vendors',
            'runs_from' => 'document',
            'grace_days' => '0',
            'net' => $days('45'),
            'discounts' => [$days('10', '3'), $days('20', '2'), $days('30', '1'), $days('')],
            'sample' => ['document' => '1/20', 'amount' => '1000'],
        ];
        $sample = $this->post('/TEST/setup/terms/new', '/TEST/setup/terms/sample', $form);
        self::assertStringContainsString(
            '3 % within 10 days, 2 % within 20 days, 1 % within 30 days, net 45 days',
            $sample->text(),
        );
        // rules.md: 3/10 2/20 n/45 dated 2026-01-20: 3 % through 01-30, 2 % through 02-09, due 03-06
        foreach (
            ['3 % through 30 Jan 2026', '30.00', '2 % through 9 Feb 2026', '20.00', 'due 6 Mar 2026'] as $expected
        ) {
            self::assertStringContainsString($expected, $sample->text());
        }
        self::assertSame('30 discount', trim($sample->filter('td.discount')->first()->text()));
        self::assertSame('6 due', trim($sample->filter('td.due')->text()));

        $refused = $this->post('/TEST/setup/terms/new', '/TEST/setup/terms/save', [
            ...$form,
            'code' => 'N30',
            'text' => '',
            'net' => $days('x'),
            'instalments' => [$days('30', '50')],
            'windows' => [['from' => '9', 'to' => '3', 'how' => 'month', 'n' => '10', 'k' => '1']],
        ]);
        foreach (
            [
                'N30 is taken already',
                'The text is missing',
                '“x” is not a step',
                'add up to 50',
                '“9-3:+1m10” is not a window',
            ] as $expected
        ) {
            self::assertStringContainsString($expected, $refused->filter('.said-refused')->text());
        }
        self::assertSame('x', $refused->filter('input[name="net[n]"]')->attr('value'), 'nothing typed is lost');

        $this->post('/TEST/setup/terms/new', '/TEST/setup/terms/save', $form);
        $id = (int) $this->db()->fetchOne("SELECT id FROM payment_term WHERE code = 'NEW'");
        $invoice = $this->invoice(Side::Payables, '100.00', ['terms' => 'NEW', 'document_date' => '2026-06-01']);
        $due = fn (): array => $this->db()->fetchAllNumeric(
            <<<'SQL'
            SELECT i.due_date, x.through
            FROM open_item i
            JOIN item_discount x ON x.item_id = i.id
            WHERE i.document_id = ?
            ORDER BY x.through
            SQL
            ,
            [$invoice],
        );
        $before = $due();
        self::assertSame(['2026-07-16', '2026-06-11'], $before[0]);
        $page = $this->post('/TEST/setup/terms/'.$id, '/TEST/setup/terms/save', [
            ...$form,
            '_id' => $id,
            'net' => $days('90'),
            'discounts' => [],
            'retired' => 'yes',
        ]);
        self::assertStringContainsString(
            'Posted documents keep the dates they have',
            $page->filter('.said-done')->text(),
        );
        self::assertSame($before, $due(), 'changing a term changes no posted document');
        self::assertStringContainsString(
            'net from 45 to 90',
            (string) $this->db()->fetchOne("SELECT detail FROM history WHERE subject = 'terms' AND action = 'changed'"),
        );
        self::assertStringNotContainsString('NEW', $page->filter('table.list')->text());
        $this->browser->request('GET', '/TEST/payables/pick/terms?q=NEW');
        self::assertSame('[]', $this->browser->getResponse()->getContent(), 'retired terms leave the picker');
        self::assertStringContainsString(
            'NEW',
            $this->browser->request('GET', '/TEST/setup/terms?retired=1')->filter('table.list')->text(),
        );
        self::assertStringContainsString(
            'on 1 posted document',
            $this->browser->request('GET', '/TEST/setup/terms/'.$id)->text(),
        );
    }

    /**
     * kind, a good record, a bad one, its fields, what is refused once it is used.
     *
     * @return iterable<string, array{string, array<string, string>, array<string, string>, list<string>, 4?: list<string>}>
     */
    public static function records(): iterable
    {
        yield 'accounts' => [
            'accounts',
            ['number' => '5555', 'name' => 'Rope', 'type' => 'expense'],
            ['number' => '5000', 'name' => '', 'type' => 'x', 'role' => 'small_differences', 'currency' => 'dollar'],
            ['taken', 'missing', 'type is', 'has the role', 'three capital letters'],
        ];
        yield 'cost centers' => [
            'cost-centers',
            ['code' => 'DOCK', 'name' => 'Dock'],
            ['code' => '?', 'name' => str_repeat('x', 121)],
            ['cannot be used', 'longer than 120'],
        ];
        yield 'projects' => [
            'projects',
            ['code' => 'DOCK', 'name' => 'Dock'],
            ['code' => '', 'name' => ''],
            ['cannot be used', 'missing'],
        ];
        yield 'tax codes' => [
            'tax-codes',
            [
                'code' => 'P20',
                'text' => 'twenty',
                'rate' => '20',
                'use' => 'purchase',
                'account' => '1300',
                'reverse_account' => '2200',
                'recoverable_percent' => '50',
            ],
            [
                'code' => 'P8',
                'text' => 'x',
                'rate' => '120',
                'use' => 'both',
                'account' => '2100',
                'recoverable_percent' => '-1',
            ],
            ['taken', 'percent from 0 to 100', 'purchase or sale', 'control account'],
        ];
        yield 'bank accounts' => [
            'bank-accounts',
            [
                'code' => '1001',
                'name' => 'Savings',
                'account' => '1001',
                'iban' => 'GB82 WEST 1234 5698 7654 32',
                'first_check' => '500',
            ],
            [
                'code' => '1000',
                'name' => '',
                'account' => '5000',
                'iban' => 'GB00',
                'first_check' => '-5',
                'bic' => 'ABCDEFGHIJKLMNOP',
            ],
            ['taken', 'missing', 'role bank', 'not an IBAN', 'check number', 'BIC'],
        ];
    }

    /**
     * @param array<string, string> $good
     * @param array<string, string> $bad
     * @param list<string> $said
     */
    #[DataProvider('records')]
    public function testRecordsAreAddedRefusedChangedRetiredAndExported(
        string $kind,
        array $good,
        array $bad,
        array $said,
    ): void {
        if ('bank-accounts' === $kind) {
            $this->post('/TEST/setup/accounts/new', '/TEST/setup/accounts/save', [
                'number' => '1001',
                'name' => 'Savings',
                'type' => 'asset',
                'role' => 'bank',
            ]);
        }
        $url = '/TEST/setup/'.$kind;
        $refused = $this->post($url.'/new', $url.'/save', $bad)
            ->filter('.said-refused')
            ->text();
        foreach ($said as $expected) {
            self::assertStringContainsString($expected, $refused);
        }
        $list = $this->post($url.'/new', $url.'/save', $good);
        self::assertStringContainsString('is saved', $list->filter('.said-done')->text());
        $code = array_values($good)[0];
        $href = $list
            ->filter('table.list a')
            ->reduce(static fn (Crawler $a): bool => $a->text() === $code)
            ->attr('href');
        $form = $this->browser->request('GET', (string) $href);
        $values = $form->filter('#record')->form()->getPhpValues();
        unset($values['_token']);
        $this->post((string) $href, $url.'/save', [...$values, 'retired' => 'yes']);
        self::assertStringNotContainsString(
            '>'.$code.'<',
            $this->browser->request('GET', $url)->filter('table.list')->html(),
        );
        $this->browser->request('GET', $url.'?retired=1&format=csv&q='.$code);
        $csv = $this->browser->getInternalResponse()->getContent();
        self::assertStringContainsString($code, $csv);
        // what comes out goes in again: the header is that of the import
        $fields = array_keys($good);
        self::assertSame([], array_diff($fields, str_getcsv(explode("\r\n", $csv)[0], ',', '"', '')));
        self::assertStringContainsString(
            'changed',
            $this->browser->request('GET', (string) $href)->filter('table.list')->last()->text(),
        );
        self::assertStringContainsString(
            'There is no such',
            $this->post((string) $href, $url.'/save', [...$values, '_id' => '99999'])
                ->filter('.said-refused')
                ->text(),
        );
    }

    public function testWhatIsPostedOnKeepsItsNature(): void
    {
        $this->invoice(Side::Payables, '100.00', [
            'lines' => [['account' => '5000', 'amount' => '100.00', 'tax_code' => 'P8']],
        ]);
        $id = (int) $this->db()->fetchOne("SELECT id FROM account WHERE number = '5000' AND company_id = ?", [
            $this->clerk->companyId,
        ]);
        $refused = $this->post('/TEST/setup/accounts/'.$id, '/TEST/setup/accounts/save', [
            '_id' => $id,
            'number' => '5000',
            'name' => 'Materials',
            'type' => 'asset',
        ]);
        self::assertStringContainsString('Entries stand on 5000 already', $refused->filter('.said-refused')->text());
        $control = (int) $this->db()->fetchOne("SELECT id FROM account WHERE role = 'payables' AND company_id = ?", [
            $this->clerk->companyId,
        ]);
        $refused = $this->post('/TEST/setup/accounts/'.$control, '/TEST/setup/accounts/save', [
            '_id' => $control,
            'name' => 'Payables control',
            'type' => 'liability',
            'role' => 'payables',
            'retired' => 'yes',
        ]);
        self::assertStringContainsString('it cannot be retired', $refused->filter('.said-refused')->text());
        $tax = (int) $this->db()->fetchOne("SELECT id FROM tax_code WHERE code = 'P8' AND company_id = ?", [
            $this->clerk->companyId,
        ]);
        $fields = [
            '_id' => $tax,
            'text' => 'eight',
            'rate' => '9',
            'use' => 'purchase',
            'account' => '1300',
            'recoverable_percent' => '100',
        ];
        self::assertStringContainsString(
            'retire the code and add another',
            $this->post('/TEST/setup/tax-codes/'.$tax, '/TEST/setup/tax-codes/save', $fields)
                ->filter('.said-refused')
                ->text(),
        );
        self::assertStringContainsString(
            'is saved',
            $this->post('/TEST/setup/tax-codes/'.$tax, '/TEST/setup/tax-codes/save', [...$fields, 'rate' => '8'])
                ->filter('.said-done')
                ->text(),
        );
    }

    public function testAFileIsCheckedByLineAndTakenOverWhole(): void
    {
        $bad = $this->post(
            '/TEST/import',
            '/TEST/import/check',
            ['kind' => 'cost-centers'],
            ['file' => self::upload("code,name\nA1,Alpha\n?,Beta\nA3,\n", 'list.csv')],
        );
        self::assertStringContainsString('2 things to mend, nothing was changed', $bad->filter('h2')->text());
        self::assertSame(
            ['3', '4'],
            $bad->filter('table.list tbody tr td:first-child')->each(static fn (Crawler $td): string => $td->text()),
        );
        self::assertStringContainsString('?,Beta', $bad->filter('table.list')->text());
        $good = $this->post(
            '/TEST/import',
            '/TEST/import/check',
            ['kind' => 'cost-centers'],
            ['file' => self::upload("code,name\nA1,Alpha\nA2,Beta\n", '<script>.csv')],
        );
        self::assertStringContainsString('2 cost centers would be made', $good->filter('main')->text());
        self::assertStringNotContainsString('<script>.csv', $good->html());
        self::assertSame(
            0,
            (int) $this->db()->fetchOne("SELECT COUNT(*) FROM analysis_code WHERE code IN ('A1', 'A2')"),
        );
        $file = $good->filter('#take input[name=file]')->attr('value');
        self::assertStringContainsString(
            'Took over 2 cost centers',
            $this->post('/TEST/import', '/TEST/import/take', ['kind' => 'cost-centers', 'file' => $file])
                ->filter('.said-done')
                ->text(),
        );
        self::assertSame(
            2,
            (int) $this->db()->fetchOne("SELECT COUNT(*) FROM analysis_code WHERE code IN ('A1', 'A2')"),
        );
        self::assertStringContainsString(
            'taken over already',
            $this->post('/TEST/import', '/TEST/import/take', ['kind' => 'cost-centers', 'file' => $file])
                ->filter('.said-refused')
                ->text(),
        );
        self::assertSame(0, (int) $this->db()->fetchOne('SELECT COUNT(*) FROM stored_file'), 'nothing is left behind');
        foreach (
            [
                '' => 'empty',
                "MZ\x90\x00\x03" => 'of no kind that is known',
                '<html><script>1</script>' => 'of no kind that is known',
                '%PDF-1.4' => 'application/pdf',
            ] as $content => $said
        ) {
            self::assertStringContainsString(
                $said,
                $this->post(
                    '/TEST/import',
                    '/TEST/import/check',
                    ['kind' => 'cost-centers'],
                    ['file' => self::upload((string) $content, 'list.csv')],
                )
                    ->filter('.said-refused')
                    ->text(),
            );
        }
    }

    public function testEachRoleImportsItsOwn(): void
    {
        $file = self::upload("code,name\nC-9,Nine\n", 'list.csv');
        foreach (
            ['receivables' => ['customers', 'vendors'], 'payables' => ['vendors', 'accounts']] as $role => [$may, $mayNot]
        ) {
            SignedIn::as($this->browser, $role);
            $kinds = $this->browser
                ->request('GET', '/TEST/import')
                ->filter('#kind option')
                ->each(static fn (Crawler $o): string => (string) $o->attr('value'));
            self::assertContains($may, $kinds);
            self::assertNotContains($mayNot, $kinds);
            $this->post('/TEST/import', '/TEST/import/check', ['kind' => $mayNot], ['file' => $file]);
            self::assertSame(403, $this->browser->getResponse()->getStatusCode());
        }
        SignedIn::as($this->browser, 'auditor');
        $this->browser->request('GET', '/TEST/import');
        self::assertSame(403, $this->browser->getInternalResponse()->getStatusCode());
    }

    /** The workbook is read by a library that is not ours. */
    public function testAWorkbookIsReadByAnotherLibrary(): void
    {
        $this->invoice(Side::Payables, '1280.50', ['number' => 'ÄÖ <1> & "2"']);
        $this->browser->request('GET', '/TEST/payables/items?format=xlsx');
        $path = (string) tempnam(sys_get_temp_dir(), 'xlsx');
        file_put_contents($path, $this->browser->getInternalResponse()->getContent());
        $process = new Process(
            [
                'node',
                '-e',
                'const x=require("@e965/xlsx");const '.
                'b=x.readFile(process.argv[1],{cellDates:true,UTC:true});console.log(JSON.stringify('.
                'x.utils.sheet_to_json(b.Sheets[b.SheetNames[0]],{UTC:true})))',
                $path,
            ],
            \dirname(__DIR__, 2),
        );
        $process->mustRun();
        unlink($path);
        $rows = json_decode($process->getOutput(), true, 16, \JSON_THROW_ON_ERROR);
        self::assertIsArray($rows);
        self::assertSame(
            ['ÄÖ <1> & "2"', 1280.5, 1280.5, 'V-1'],
            [$rows[0]['Their number'], $rows[0]['Open'], $rows[0]['Original'], $rows[0]['Party']],
        );
        self::assertStringStartsWith('2026-06-10', (string) $rows[0]['Document date']);
        self::assertSame(['Total', 1280.5], [$rows[1]['Party'], $rows[1]['Open']], 'the line of totals');
    }

    public function testTheBooksDayIsThatOfTheCompanysPlace(): void
    {
        $this->db()->executeStatement('UPDATE company SET books_day = NULL');
        $em = self::get(EntityManagerInterface::class);
        $company = $this->clerk->companyId;
        $keep = function (string $zone) use ($em): void {
            self::get(KeepCompany::class)->keep($this->clerk, ['name' => 'Test', 'time_zone' => $zone]);
            $em->clear();
        };
        $day = fn (): string => (new BooksDay(
            $em,
            new MockClock('2026-06-15 03:30:00', 'UTC'),
            self::get(Settings::class),
        ))
            ->of($company)
            ->iso();
        $em->clear();
        self::assertSame('2026-06-15', $day(), 'UTC until somebody says otherwise');
        $keep('America/Chicago');
        self::assertSame('2026-06-14', $day());
        $keep('Asia/Tokyo');
        self::assertSame('2026-06-15', $day());
        self::assertSame(['time_zone'], self::refusedFields(static fn () => $keep('Mars/Olympus')));
        self::assertStringContainsString(
            'Asia/Tokyo',
            $this->page('/TEST/setup')->filter('#own-zone option[selected]')->text(),
        );
        $this->db()->executeStatement("UPDATE company SET books_day = '2026-06-15'");
    }

    /**
     * @return iterable<string, array{string, array<string, string>}> source: rules.md, Tolerances and limits (USD 1.00 and 10,000.00;
     *                                                                JPY 100 and 1,000,000); the others by the same orders of magnitude
     */
    public static function offered(): iterable
    {
        yield 'dollars' => ['USD', ['tolerance_amount' => '1.00', 'invoice_approval_above' => '10000.00']];
        yield 'yen' => ['JPY', ['tolerance_amount' => '100', 'invoice_approval_above' => '1000000']];
        yield 'won' => ['KRW', ['tolerance_amount' => '1000', 'invoice_approval_above' => '10000000']];
        yield 'dinars' => ['KWD', ['tolerance_amount' => '1.000', 'invoice_approval_above' => '10000.000']];
    }

    /** @param array<string, string> $amounts */
    #[DataProvider('offered')]
    public function testANewCompanyIsOfferedAmountsOfLikeWorth(string $currency, array $amounts): void
    {
        $id = self::get(CreateCompany::class)->create('NEW'.$currency, 'New', $currency, Day::of(self::DAY));
        self::assertSame($amounts, array_intersect_key(self::get(Settings::class)->of($id)->values, $amounts));
    }
}
