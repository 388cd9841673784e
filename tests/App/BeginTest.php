<?php

declare(strict_types=1);

namespace Nelbix\Tests\App;

use Doctrine\ORM\EntityManagerInterface;
use Nelbix\App\Close\TieOut\TieOutQuery;
use Nelbix\App\Import\ImportFile;
use Nelbix\App\People\FirstPerson;
use Nelbix\App\People\User;
use Nelbix\App\Platform\Actor;
use Nelbix\App\Platform\Company;
use Nelbix\App\Platform\Settings;
use Nelbix\App\Setup\NewCompany\Countries;
use Nelbix\App\Setup\NewCompany\FirstSteps;
use Nelbix\App\Setup\NewCompany\FoundCompany;
use Nelbix\App\Setup\NewCompany\TakeOver;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Problem;
use Nelbix\Core\Refused;
use Symfony\Bundle\FrameworkBundle\Console\Application;
use Symfony\Bundle\FrameworkBundle\KernelBrowser;
use Symfony\Component\Console\Tester\CommandTester;

/** An empty installation: its first person, its companies, and books that are taken over from elsewhere. */
final class BeginTest extends AppCase
{
    private const PERSON = [
        'name' => 'P. Varga',
        'username' => 'varga',
        'password' => 'four kettles in a row',
        'again' => 'four kettles in a row',
    ];

    private const COMPANY = [
        'code' => 'OWN',
        'name' => 'Own Company',
        'country' => 'US',
        'currency' => 'USD',
        'first_month' => '1',
        'time_zone' => 'America/Chicago',
        'date_order' => 'month_day',
        'sales_tax' => '6.250',
    ];

    private KernelBrowser $browser;

    protected function setUp(): void
    {
        parent::setUp();
        self::ensureKernelShutdown();
        $this->browser = self::createClient();
    }

    protected const BEGINS_WITH_A_COMPANY = false;

    /** Nothing is made before. */
    protected function makeCompany(string $code): void
    {
    }

    private function first(): User
    {
        return self::get(FirstPerson::class)->withPassword(self::PERSON);
    }

    /** @param array<string, string> $more */
    private function found(array $more = [], ?User $founder = null): Company
    {
        return self::get(FoundCompany::class)->found($founder ?? $this->first(), [...self::COMPANY, ...$more]);
    }

    /** @return list<string> */
    private static function refused(callable $do): array
    {
        try {
            $do();
        } catch (Refused $e) {
            return array_map(static fn (Problem $p): string => $p->field, $e->problems);
        }
        self::fail('It was not refused.');
    }

    public function testTheFirstPersonMakesTheFirstCompanyOnTheScreen(): void
    {
        $this->browser->followRedirects();
        $page = $this->browser->request('GET', '/');
        self::assertSame('/begin', parse_url((string) $page->getUri(), \PHP_URL_PATH));
        $page = $this->browser->submit($page->selectButton('Begin')->form([...self::PERSON, 'again' => 'another']));
        self::assertSame('The two do not agree; type the password once more.', $page->filter('#e-again')->text());
        self::assertSame('varga', $page->filter('#username')->attr('value'), 'what was typed is still there');
        $page = $this->browser->submit($page->selectButton('Begin')->form(self::PERSON));
        $page = $this->browser->submit(
            $page->selectButton('Sign in')->form(['_username' => 'varga', '_password' => self::PERSON['password']]),
        );
        self::assertSame('/begin/company', parse_url((string) $page->getUri(), \PHP_URL_PATH));
        $page = $this->browser->submit(
            $page->selectButton('Make the company')->form([...self::COMPANY, 'code' => 'a b']),
        );
        self::assertStringContainsString('not a company code', $page->filter('#e-code')->text());
        $page = $this->browser->submit($page->selectButton('Make the company')->form(self::COMPANY));
        self::assertSame('/OWN', parse_url((string) $page->getUri(), \PHP_URL_PATH));
        self::assertStringContainsString('10 of 10 left', $page->filter('section h2')->text());
        $page = $this->browser->request('GET', '/begin');
        self::assertSame('/OWN', parse_url((string) $page->getUri(), \PHP_URL_PATH), 'there is nothing more to begin');
    }

    /** From another machine, or handed on by a server that stands before it, nobody becomes the first. */
    public function testNobodyBecomesTheFirstFromElsewhere(): void
    {
        foreach (
            [
                ['REMOTE_ADDR' => '10.1.2.3'],
                ['HTTP_X_FORWARDED_FOR' => '10.1.2.3'],
                ['HTTP_FORWARDED' => 'for=10.1.2.3'],
                ['HTTP_X_REAL_IP' => '10.1.2.3', 'HTTP_HOST' => 'localhost'],
                ['host' => 'books.example.org'],
            ] as $server
        ) {
            $at = 'http://'.($server['host'] ?? 'localhost');
            $page = $this->browser->request('GET', $at.'/begin', [], [], $server);
            self::assertSame(403, $this->browser->getResponse()->getStatusCode(), implode($server));
            self::assertStringContainsString('nelbix:user:create', $page->text());
            $this->browser->request('POST', $at.'/begin', self::PERSON, [], $server);
            self::assertSame(403, $this->browser->getResponse()->getStatusCode());
        }
        $this->browser->request('POST', 'http://localhost/begin', self::PERSON);
        self::assertSame(422, $this->browser->getResponse()->getStatusCode(), 'nor by a page of somebody else');
        self::assertTrue(self::get(FirstPerson::class)->isAwaited());
    }

    public function testOfTwoAtOnceOneIsTheFirst(): void
    {
        $this->first();
        self::assertSame([''], self::refused(fn () => $this->first()));
        // the other began before anybody was there
        $this->db()->executeStatement('DELETE FROM app_user');
        self::assertTrue(self::get(FirstPerson::class)->isAwaited());
        self::assertSame([''], self::refused(fn () => $this->first()));
        self::assertSame('0', (string) $this->db()->fetchOne('SELECT COUNT(*) FROM app_user'));
    }

    public function testTheConsoleMakesPeopleAndTheirLinks(): void
    {
        $create = function (array $input): CommandTester {
            $application = new Application(self::$kernel ?? self::fail());
            $tester = new CommandTester($application->find('nelbix:user:create'));
            $tester->execute([...$input, '--format' => 'json']);

            return $tester;
        };
        $said = $create(['name' => 'varga', '--role' => ['payables']]);
        self::assertSame(1, $said->getStatusCode(), 'the first is a controller');
        $link = json_decode($create(['name' => 'varga', '--role' => ['controller']])->getDisplay(), true)[0]['link'];
        self::assertMatchesRegularExpression('~\Ahttp://127\.0\.0\.1:\d+/link/[\w-]{43}\z~', $link);
        $page = $this->browser->request('GET', (string) parse_url($link, \PHP_URL_PATH));
        $this->browser->submit(
            $page
                ->selectButton('Set it')
                ->form(['password' => self::PERSON['password'], 'again' => self::PERSON['again']]),
        );
        self::assertSame(303, $this->browser->getResponse()->getStatusCode());
        $varga = self::get(EntityManagerInterface::class)
            ->getRepository(User::class)
            ->findOneBy(['username' => 'varga']);
        $this->found([], $varga ?? self::fail());
        self::assertSame(
            1,
            $create(['name' => 'varga', '--role' => ['approver']])->getStatusCode(),
            'works here already',
        );
        self::assertSame(
            1,
            $create(['name' => 'ida', '--role' => ['approver'], '--company' => 'NONE'])->getStatusCode(),
        );
        $both = ['name' => 'ida', '--role' => ['approver', 'payables'], '--company' => 'OWN'];
        self::assertSame(1, $create($both)->getStatusCode(), 'duties better kept apart need a reason');
        self::assertSame(0, $create([...$both, '--reason' => 'two of us'])->getStatusCode());
    }

    /** @return iterable<string, array{string, string, array<string, string>, list<string>}> */
    public static function countries(): iterable
    {
        // rates: from memory, as of 2026
        yield 'US' => ['US', 'USD', ['P0' => '0', 'S0' => '0', 'ST' => '6.25'], ['N30', '2-10-N30']];
        yield 'DE' => [
            'DE',
            'EUR',
            ['P19' => '19', 'P7' => '7', 'S19' => '19', 'S7' => '7', 'PR' => '19'],
            ['N14', '2-14-N30'],
        ];
        yield 'GB' => ['GB', 'GBP', ['P20' => '20', 'S20' => '20', 'P5' => '5', 'S0' => '0'], ['N30', 'MONTHEND']];
        yield 'CA' => ['CA', 'CAD', ['PG5' => '5', 'SH13' => '13', 'SH15' => '15', 'SQ' => '14.975'], ['N15']];
        yield 'JP' => ['JP', 'JPY', ['P0' => '0', 'S0' => '0'], ['N30']];
    }

    /**
     * @param array<string, string> $rates some of its tax codes
     * @param list<string> $terms some of its terms
     */
    #[\PHPUnit\Framework\Attributes\DataProvider('countries')]
    public function testACompanyBeginsWithWhatIsUsualInItsCountry(
        string $country,
        string $currency,
        array $rates,
        array $terms,
    ): void {
        self::assertSame($currency, Countries::currency($country));
        $company = $this->found([
            'country' => $country,
            'currency' => $currency,
            'time_zone' => Countries::zones($country)[0],
            'sales_tax' => 'US' === $country ? '6.250' : '',
        ]);
        $codes = $this->db()->fetchAllKeyValue('SELECT code, rate + 0 FROM tax_code WHERE company_id = ?', [
            $company->id(),
        ]);
        foreach ($rates as $code => $rate) {
            self::assertEqualsWithDelta((float) $rate, (float) $codes[$code], 0.000001, $code);
        }
        self::assertArrayNotHasKey('S8', $codes, 'nobody has the sample’s tax');
        $have = $this->db()->fetchFirstColumn('SELECT code FROM payment_term WHERE company_id = ?', [$company->id()]);
        self::assertSame([], array_diff($terms, $have));
        self::assertSame(
            'JPY' === $currency ? 1_000_000 : 1_000_000,
            self::get(Settings::class)->of($company->id())->amount('invoice_approval_above', $currency),
            'a limit of like worth',
        );
        $checks = (int) $this->db()->fetchOne(
            'SELECT COUNT(*) FROM check_book k JOIN bank_account b ON b.id = k.bank_account_id WHERE b.company_id = ?',
            [$company->id()],
        );
        self::assertSame(\in_array($country, ['US', 'CA'], true) ? 1 : 0, $checks);
    }

    /** A year that begins in April is named after the calendar year in which it ends, and its numbers begin anew with it. */
    public function testAYearThatBeginsInApril(): void
    {
        $company = $this->found([
            'first_month' => '4',
            'country' => 'GB',
            'currency' => 'GBP',
            'time_zone' => 'Europe/London',
        ]);
        $today = Day::fromDateTime(new \DateTimeImmutable('now', new \DateTimeZone('Europe/London')));
        $year = $today->year + ($today->month >= 4 ? 1 : 0);
        $periods = $this->db()->fetchAllAssociative(
            'SELECT year, number, first_day, last_day FROM period WHERE company_id = ? ORDER BY first_day',
            [$company->id()],
        );
        self::assertCount(36, $periods);
        self::assertSame(
            [(string) ($year - 1), '1', $year - 2 .'-04-01', $year - 2 .'-04-30'],
            array_map('strval', array_values($periods[0])),
        );
        self::assertSame(
            [(string) ($year + 1), '12', $year + 1 .'-03-31'],
            [(string) $periods[35]['year'], (string) $periods[35]['number'], (string) $periods[35]['last_day']],
        );
        $actor = Actor::of($company, $this->founder());
        $import = self::get(ImportFile::class)->import(
            $actor,
            'journal',
            "entry,date,text,account,debit,credit\na,$year-03-31,last,6400,5,\na,$year-03-31,last,3000,,5\n".
                "b,$year-04-01,first,6400,5,\nb,$year-04-01,first,3000,,5\n",
        );
        self::assertSame([], $import['errors']);
        self::assertSame(
            [\sprintf('JE-%02d-00001', $year % 100), \sprintf('JE-%02d-00001', ($year + 1) % 100)],
            $this->db()->fetchFirstColumn('SELECT number FROM journal_entry ORDER BY posting_date'),
        );
    }

    private function founder(): User
    {
        return self::get(EntityManagerInterface::class)
            ->getRepository(User::class)
            ->findOneBy(['username' => 'varga']) ?? self::fail();
    }

    public function testOnlyAControllerMakesAFurtherCompany(): void
    {
        $this->found();
        $founder = $this->founder();
        $this->found(['code' => 'TWO'], $founder);
        self::assertSame(['code'], self::refused(fn () => $this->found(['code' => 'two'], $founder)), 'taken');
        $other = new User('ida', 'Ida');
        $other->passwordHash = 'x';
        self::get(EntityManagerInterface::class)->persist($other);
        self::get(EntityManagerInterface::class)->flush();
        self::assertSame([''], self::refused(fn () => $this->found(['code' => 'THREE'], $other)));
        SignedIn::as($this->browser, 'ida');
        self::assertStringContainsString('Ask a controller', $this->browser->request('GET', '/begin/company')->text());
        $this->browser->request('POST', '/begin/company', [...self::COMPANY, 'code' => 'FOUR']);
        self::assertSame(422, $this->browser->getResponse()->getStatusCode());
        self::assertSame(
            ['country', 'currency', 'first_month', 'time_zone', 'date_order', 'sales_tax'],
            self::refused(
                fn () => $this->found(
                    [
                        'country' => 'ZZ',
                        'currency' => 'dollars',
                        'first_month' => '13',
                        'time_zone' => 'Mars',
                        'date_order' => 'x',
                        'sales_tax' => '-1',
                    ],
                    $founder,
                ),
            ),
        );
    }

    /** Open items and balances from elsewhere tie to the control accounts from the first day, and the opening account ends at zero. */
    public function testBooksAreTakenOverAsOfADay(): void
    {
        $company = $this->found();
        $actor = Actor::of($company, $this->founder());
        $import = function (string $kind, string $csv, bool $dryRun = false) use ($actor): array {
            $r = self::get(ImportFile::class)->import($actor, $kind, $csv, $dryRun);

            return array_map(
                static fn (Problem $p): string => $p->line.' '.$p->field.' '.$p->message,
                $r['errors'],
            );
        };
        self::assertSame([], $import('vendors', "code,name,terms\nV-1,Fenwick Timber,N30\n"));
        self::assertSame([], $import('customers', "code,name,terms\nC-1,Gannet Sailing School,N30\n"));
        $year = (int) date('Y') - 1;
        $payables =
            "party,number,document_date,due_date,amount\nV-1,A-1,$year-11-20,$year-12-20,1200.00\n".
            "V-1,A-2,$year-12-01,,300.00\nV-1,A-3,$year-12-05,,-100.00\n";
        try {
            $import('opening-payables', $payables);
            self::fail('without a day');
        } catch (Refused $e) {
            self::assertStringContainsString('as of which day', $e->getMessage());
        }
        $takeOver = self::get(TakeOver::class);
        self::assertSame(['day'], self::refused(static fn () => $takeOver->asOf($actor, '1999-12-31')));
        $takeOver->asOf($actor, "$year-12-30");
        $day = $takeOver->asOf($actor, "$year-12-31");
        $balances =
            "account,name,debit,credit\n1000,Bank,5000.00,\n1200,Receivables,700.00,\n2100,Payables,,1400.00\n".
            "1600,Equipment,10000.00,\n3000,Equity,,14300.00\n";
        self::assertStringStartsWith(
            '3 account The open items add up to 0.00',
            $import('opening-balances', $balances, true)[0],
        );
        self::assertCount(2, $import('opening-balances', $balances), 'both control accounts; nothing is taken');
        self::assertSame([], $import('opening-payables', $payables, true));
        self::assertSame([], $import('opening-payables', $payables));
        self::assertNotSame([], $import('opening-payables', $payables), 'the same file once more');
        self::assertSame(
            [],
            $import('opening-receivables', "party,number,document_date,amount\nC-1,4711,$year-12-10,700.00\n"),
        );
        self::assertSame(['day'], self::refused(static fn () => $takeOver->asOf($actor, "$year-12-30")), 'under way');
        self::assertSame([], $import('opening-balances', $balances, true));
        self::assertSame([], $import('opening-balances', $balances));
        $entries = (int) $this->db()->fetchOne('SELECT COUNT(*) FROM journal_entry');
        self::assertSame([], $import('opening-balances', $balances), 'the same list once more');
        self::assertSame($entries, (int) $this->db()->fetchOne('SELECT COUNT(*) FROM journal_entry'), 'posts nothing');
        $held = $this->db()->fetchAllKeyValue(
            'SELECT a.number, SUM(l.base) FROM journal_line l JOIN account a ON a.id = l.account_id WHERE l.posting_date <= ? GROUP BY 1',
            [$day->iso()],
        );
        ksort($held);
        self::assertSame(
            [
                '1000' => 500_000,
                '1200' => 70_000,
                '1600' => 1_000_000,
                '2100' => -140_000,
                '3000' => -1_430_000,
                '3800' => 0,
            ],
            array_map('intval', $held),
        );
        foreach (self::get(TieOutQuery::class)->of($company->id(), $day) as $row) {
            self::assertSame(0, $row['tie']->difference(), $row['name']);
        }
        self::assertSame(
            ["$year-12-20", "$year-12-31"],
            $this->db()->fetchFirstColumn(
                "SELECT due_date FROM open_item WHERE side = 'payables' AND kind = 'invoice' ORDER BY number",
            ),
        );
        self::assertStringContainsString(
            'one row',
            $import('opening-balances', "account,debit,credit\n1000,1,\n1000,2,\n")[0],
        );
        self::assertStringContainsString(
            'not both',
            $import('opening-balances', "account,debit,credit\n1000,1,1\n")[0],
        );
        self::assertStringContainsString(
            'leave this account out',
            $import('opening-balances', "account,debit,credit\n3800,1,\n")[0],
        );
        $steps = [];
        $company = self::get(EntityManagerInterface::class)->find(Company::class, $company->id()) ?? self::fail();
        foreach (self::get(FirstSteps::class)->of($company) as $step) {
            $steps[$step->key] = $step->found;
        }
        self::assertSame(
            ['vendors', 'customers', 'day', 'payables', 'receivables', 'balances'],
            array_keys(array_filter($steps)),
        );
    }

    public function testTheListOfFirstStepsIsMarkedAndPutAway(): void
    {
        $company = $this->found();
        $actor = Actor::of($company, $this->founder());
        $steps = self::get(FirstSteps::class);
        self::assertSame(['step'], self::refused(static fn () => $steps->mark($actor, 'none', true)));
        $steps->mark($actor, 'tax', true);
        $steps->mark($actor, 'bank', true);
        $steps->mark($actor, 'bank', false);
        self::assertSame(
            ['tax'],
            array_values(
                array_map(
                    static fn ($s): string => $s->key,
                    array_filter($steps->of($company), static fn ($s): bool => $s->done()),
                ),
            ),
        );
        SignedIn::as($this->browser, 'varga');
        $page = $this->browser->request('GET', '/OWN');
        self::assertStringContainsString('9 of 10 left', $page->filter('section h2')->text());
        $this->browser->submit($page->selectButton('Put this list away')->form());
        self::assertCount(0, $this->browser->followRedirect()->filter('section[aria-label="First steps"]'));
    }
}
