<?php

declare(strict_types=1);

namespace Nelbix\Tests\App;

use Nelbix\App\Bank\BankAccounts;
use Nelbix\App\Books\PlacementRequest;
use Nelbix\App\Payables\BankOutlook;
use Nelbix\App\Payables\CriteriaReader;
use Nelbix\App\Payables\DueRiver;
use Nelbix\App\Payables\MakeProposal;
use Nelbix\App\Payables\PayHabits;
use Nelbix\App\Payables\RiverFlow;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Ledger\DocumentKind;
use Nelbix\Core\Ledger\Side;
use Nelbix\Core\OpenItems\OpenItem;
use Nelbix\Core\Proposal\Candidate;
use Nelbix\Core\Proposal\Criteria;
use Nelbix\Core\Proposal\Payee;
use Nelbix\Core\Proposal\Proposer;
use PHPUnit\Framework\Attributes\DataProvider;
use Symfony\Component\DomCrawler\Crawler;

/**
 * What is due: the drawing, the lists, habits, a vendor's statement, and what the bank is expected to hold.
 *
 * @phpstan-import-type Outlook from BankOutlook
 */
final class DueTest extends ScreenCase
{
    /** @return iterable<string, array{int, int}> how many items, how many days */
    public static function crowds(): iterable
    {
        yield 'none' => [0, 45];
        yield 'a few' => [20, 45];
        yield 'many, by week' => [2000, 180];
        yield 'many, by day' => [2000, 45];
    }

    #[DataProvider('crowds')]
    public function testTheRiverHoldsEveryItemOnceAndStaysReadable(int $count, int $span): void
    {
        mt_srand(5);
        $candidates = [];
        $sum = 0;
        for ($n = 1; $n <= $count; ++$n) {
            $due = Day::of(self::DAY)->plusDays(mt_rand(-60, 150));
            $sum += $amount = mt_rand(100, 900_000);
            $candidates[] = new Candidate(
                new OpenItem(
                    $n,
                    Side::Payables,
                    1,
                    DocumentKind::Invoice,
                    'VI-'.$n,
                    1,
                    'USD',
                    $amount,
                    $amount,
                    $amount,
                    $amount,
                    $due->plusDays(-30),
                    $due,
                ),
                new Payee(1, 'V-1'),
            );
        }
        $criteria = new Criteria(Day::of(self::DAY), Day::of(self::DAY), Day::of('2026-06-22'), 'USD');
        $river = DueRiver::of(
            self::flow($criteria, $candidates, $span),
            array_fill_keys(range(1, max(1, $count)), [
                'their_number' => '',
                'name' => 'Fenwick Timber',
                'document_id' => 1,
            ]),
        );
        self::assertSame(
            [$count, $sum],
            [array_sum(array_column($river->blocks, 'items')), array_sum(array_column($river->blocks, 'amount'))],
        );
        self::assertLessThanOrEqual($span + 3, \count($river->blocks));
        self::assertLessThanOrEqual(12, \count(array_filter(array_column($river->blocks, 'label'))));
        foreach ($river->blocks as $b) {
            self::assertGreaterThan(-30, $b['x']);
            self::assertLessThan(DueRiver::WIDTH + 10, $b['x'] + $b['width']);
            self::assertLessThanOrEqual(150.2, $b['in'] + $b['out']);
        }
        self::assertLessThan($river->again, $river->pay);
    }

    /** @param list<Candidate> $candidates */
    private static function flow(Criteria $criteria, array $candidates, int $span): RiverFlow
    {
        $flow = new RiverFlow($criteria, $span);
        $result = Proposer::propose($criteria, $candidates);
        array_map($flow->add(...), [...$result->in, ...$result->out]);

        return $flow;
    }

    /** Months of overdue items in one block before the axis leave the days of the axis readable. */
    public function testWhatLiesBeforeTheDaysShownDoesNotPressThemDown(): void
    {
        $candidates = array_map(
            fn (int $n): Candidate => new Candidate(
                new OpenItem(
                    $n,
                    Side::Payables,
                    1,
                    DocumentKind::Invoice,
                    'VI-'.$n,
                    1,
                    'USD',
                    100_000,
                    100_000,
                    100_000,
                    100_000,
                    Day::of('2026-01-01'),
                    Day::of($n < 20 ? '2026-02-01' : '2026-06-16'),
                ),
                new Payee(1, 'V-1'),
            ),
            range(1, 20),
        );
        $criteria = new Criteria(Day::of(self::DAY), Day::of(self::DAY), Day::of('2026-06-22'), 'USD');
        $blocks = DueRiver::of(self::flow($criteria, $candidates, 45), [])->blocks;
        self::assertSame(
            [['earlier', true, 150.0, 1_900_000], ['', false, 150.0, 100_000]],
            array_map(
                static fn (array $b): array => [$b['edge'], $b['cut'], $b['in'] + $b['out'], $b['amount']],
                $blocks,
            ),
        );
    }

    public function testThePageDrawsItAndTheBlocksFollowThePayDate(): void
    {
        $this->invoice(Side::Payables, '1000.00', ['document_date' => '2026-06-10']);
        $page = $this->browser->request('GET', '/TEST/payables/proposal?pay_date=2026-06-15');
        self::assertCount(1, $page->filter('svg.river rect.in'), 'its discount is at stake');
        self::assertStringContainsString('needs 980.00 · keeps 20.00 discount', $page->filter('svg.river')->text());
        self::assertCount(1, $page->filter('svg.river .wedge.kept'));
        $late = $this->browser->request('GET', '/TEST/payables/proposal?pay_date=2026-06-21&due_through=2026-06-21');
        self::assertCount(0, $late->filter('svg.river .wedge'), 'the step ended on the 20th');
        self::assertCount(1, $late->filter('svg.river rect.out'));
        $this->as('auditor');
        $read = $this->browser->request('GET', '/TEST/payables/proposal');
        self::assertCount(1, $read->filter('svg.river'));
        self::assertCount(0, $read->filter('[data-main-action]'), 'who only reads makes none');
    }

    public function testHabitsAreKeptMovedOnSharedRenamedAndCompared(): void
    {
        $this->invoice(Side::Payables, '100.00', ['document_date' => '2026-05-10', 'terms' => 'N30']);
        $this->invoice(Side::Payables, '200.00', ['document_date' => '2026-06-01', 'terms' => 'N30']);
        $habits = self::get(PayHabits::class);
        self::assertSame(
            ['habit_name', 'method'],
            self::refusedFields(fn () => $habits->keep($this->clerk, ' ', false, ['method' => 'gold'])),
        );
        $habit = $habits->keep($this->clerk, 'Monday run', false, [
            'pay_date' => '2026-06-15',
            'due_through' => '2026-07-05',
            'again_on' => '2026-06-29',
            'at_least' => '5',
            'bank' => '1000',
        ]);
        self::assertSame(
            [
                'pay_date' => '2026-08-03',
                'bank' => '1000',
                'at_least' => '5',
                'due_through' => '2026-08-23',
                'again_on' => '2026-08-17',
            ],
            $habits->start($this->clerk, 'Monday run', Day::of('2026-08-03')),
        );
        self::assertSame([], $habits->of($this->approver), 'it is mine');
        $habits->keep($this->clerk, 'Monday run', true, ['pay_date' => '2026-06-15', 'due_through' => '2026-07-05']);
        self::assertCount(1, $habits->of($this->approver), 'now it is everybody’s, and replaced the first');
        self::assertSame([''], self::refusedFields(fn () => $habits->remove($this->approver, $habit->id())));
        $habits->rename($this->clerk, $habit->id(), 'First run');
        $page = $this->browser->request(
            'GET',
            '/TEST/payables/proposal?'.http_build_query(['pay_date' => '2026-06-15', 'with' => 'First run']),
        );
        self::assertStringContainsString('Only in First run:', $page->filter('#due')->text());
        self::assertSame(
            ['these criteria', '1', '100.00', 'First run', '2', '300.00'],
            (static function (array $cells): array {
                return [$cells[0], $cells[1], $cells[2], $cells[7], '1' === $cells[8] ? '2' : $cells[8], $cells[9]];
            })($page->filter('#due table')->first()->filter('td')->each(static fn ($td): string => trim($td->text()))),
        );
        $started = $this->browser->request('GET', '/TEST/payables/proposal?habit=First run');
        self::assertSame('5 Jul 2026', $started->filter('#due_through')->attr('value'));
        $kept = $this->post('/TEST/payables/proposal', '/TEST/payables/habit', [
            '_action' => 'keep',
            'habit_name' => 'Small ones',
            'shared' => '',
            'pay_date' => '.',
            'at_least' => '1',
        ]);
        self::assertStringContainsString('Kept as the pay habit “Small ones”', $kept->filter('.said-done')->text());
        $habits->remove($this->clerk, $habit->id());
        self::assertSame(['Small ones'], array_map(static fn ($h): string => $h->name, $habits->of($this->clerk)));
    }

    /** 2/10 n/30 is 37.24 % a year (textbook). */
    public function testListsOfWhatIsDueWithTheYieldOfItsDiscount(): void
    {
        $this->invoice(Side::Payables, '1000.00', ['document_date' => '2026-06-10', 'terms' => '2-10-N30']);
        $this->invoice(Side::Payables, '70.00', ['document_date' => '2026-04-01', 'terms' => 'N30']);
        $this->invoice(Side::Payables, '80.00', ['document_date' => '2026-05-20', 'terms' => 'N30']);
        $cells = fn (string $path): array => $this->browser
            ->request('GET', '/TEST/payables/due/'.$path)
            ->filter('table.list tbody tr')
            ->each(static fn ($r): string => trim((string) preg_replace('/\s+/', ' ', $r->text())));
        self::assertStringContainsString('45 d late', implode($cells('overdue')));
        self::assertCount(1, $cells('overdue'));
        self::assertStringContainsString('in 4 d', implode($cells('soon')));
        self::assertStringContainsString('20.00 37.24 %', implode($cells('discounts')));
        self::assertCount(0, $cells('discounts?days=1'));
        $this->browser->request('GET', '/TEST/payables/due/discounts?format=csv');
        self::assertStringContainsString(
            ',2026-06-20,20.00,37.24,USD,1000.00',
            $this->browser->getInternalResponse()->getContent(),
        );
    }

    public function testAVendorsStatementAgainstOurs(): void
    {
        $this->invoice(Side::Payables, '100.00', ['number' => 'A-001']);
        $this->invoice(Side::Payables, '250.00', ['number' => 'A-002', 'document_date' => '2026-05-01']);
        $this->invoice(Side::Payables, '31.00', ['number' => 'OURS-1', 'document_date' => '2026-05-02']);
        $paid = $this->invoice(Side::Payables, '12.00', ['number' => 'PAID-1', 'document_date' => '2026-05-03']);
        $this->money(
            Side::Payables,
            1200,
            [new PlacementRequest($this->itemOf($paid), 1200)],
            [],
            self::DAY,
            DocumentKind::Payment,
        );
        $compare = fn (string $text): Crawler => $this->post(
            '/TEST/payables/statement-check',
            '/TEST/payables/statement-check',
            ['party' => 'V-1', 'statement' => $text],
        );
        $text = $compare("A1\t100.00\nA2\t240.00\nPAID-1\t12.00\nNEW-5\t9.00")->filter('main')->text();
        foreach (
            [
                'Different amounts 1',
                'They have, we lack 2',
                'settled here',
                'never entered',
                'We have, they lack 1',
                '1 agree',
                'They claim 361.00, we hold 381.00',
            ] as $expected
        ) {
            self::assertStringContainsString($expected, $text);
        }
        self::assertStringContainsString(
            'No line has a number',
            $compare('nothing here')->filter('.said-refused')->text(),
        );
        $compare("\"><script>alert(1)</script>\t1.00");
        self::assertStringNotContainsString('<script>alert(1)', (string) $this->browser->getResponse()->getContent());
    }

    /** Another company's river is one field away; days stay, what is the first company's own does not. */
    public function testAnotherCompanyWithTheSameDays(): void
    {
        $this->makeCompany('OTHER');
        $page = $this->page('/TEST/payables/proposal?pay_date=2026-06-20&vendors=V-1');
        self::assertSame(
            ['TEST', 'OTHER'],
            $page->filter('select[name=of] option')->each(static fn (Crawler $o): string => (string) $o->attr('value')),
        );
        $this->browser->request('GET', '/TEST/payables/proposal?of=OTHER&pay_date=2026-06-20&vendors=V-1');
        self::assertSame(
            '/OTHER/payables/proposal?pay_date=2026-06-20',
            $this->browser->getResponse()->headers->get('Location'),
        );
        $this->browser->request(
            'GET',
            '/TEST/payables/proposal?of=OTHER&pay_date=2026-06-20',
            [],
            [],
            ['HTTP_HX_REQUEST' => 'true'],
        );
        self::assertSame(
            '/OTHER/payables/proposal?pay_date=2026-06-20',
            $this->browser->getResponse()->headers->get('HX-Redirect'),
        );
    }

    /** @return Outlook */
    private function outlook(int $bank, string $day = self::DAY, int $except = 0): array
    {
        return self::get(BankOutlook::class)->of(
            $this->clerk->companyId,
            self::get(BankAccounts::class)->find($this->clerk->companyId, $bank) ?? self::fail(),
            'USD',
            Day::of(self::DAY),
            Day::of($day),
            $except,
        );
    }

    /** 1,000.00 in the ledger, 100.00 dated tomorrow, another run that takes 200.00: 700.00 are expected before this run. */
    public function testTheExpectedBalanceKnowsWhatIsOnItsWay(): void
    {
        $this->money(Side::Receivables, 100000);
        $this->money(Side::Payables, 10000, [], [], '2026-06-16', DocumentKind::Payment);
        $this->invoice(Side::Payables, '300.00', ['document_date' => '2026-04-01', 'terms' => 'N30']);
        ['criteria' => $criteria, 'bankAccountId' => $bank, 'method' => $method] = self::get(
            CriteriaReader::class,
        )->read($this->clerk, ['pay_date' => '2026-06-16']);
        $run = self::get(MakeProposal::class)->make($this->clerk, $criteria, $bank, $method);
        $of = fn (string $day, int $except = 0): array => array_values(
            array_intersect_key(
                $this->outlook($bank, $day, $except),
                array_flip(['balance', 'later', 'runs', 'expected']),
            ),
        );
        self::assertSame([100000, 0, 0, 100000], $of(self::DAY));
        self::assertSame([100000, -10000, 20000, 70000], $of('2026-06-17'));
        self::assertSame([100000, -10000, 0, 90000], $of('2026-06-16', $run), 'without the run that is looked at');
    }

    public function testAnAccountInAForeignCurrencyCountsThatCurrency(): void
    {
        $this->db()->executeStatement(
            <<<SQL
            INSERT INTO exchange_rate (company_id, valid_on, from_currency, to_currency, rate)
            VALUES (?, '2026-06-01', 'EUR', 'USD', 1.10)
            SQL
            ,
            [$this->clerk->companyId],
        );
        $this->money(Side::Receivables, 50000, [], [], self::DAY, DocumentKind::Receipt, 'EUR');
        $bank = (int) $this->db()->fetchOne('SELECT id FROM bank_account WHERE company_id = ?', [
            $this->clerk->companyId,
        ]);
        $of = fn (): int => $this->outlook($bank)['balance'];
        self::assertSame(55000, $of(), 'in the base currency');
        $this->db()->executeStatement("UPDATE bank_account SET currency = 'EUR' WHERE id = ?", [$bank]);
        self::assertSame(50000, $of());
    }

    /** A run of 1,000.00 EUR takes 1,100.00 from an account in USD at 1.10; without a rate nothing is made up. */
    public function testARunInAnotherCurrencyThanItsAccount(): void
    {
        $this->db()->executeStatement(
            <<<SQL
            INSERT INTO exchange_rate (company_id, valid_on, from_currency, to_currency, rate)
            VALUES (?, '2026-04-01', 'EUR', 'USD', 1.10)
            SQL
            ,
            [$this->clerk->companyId],
        );
        $this->invoice(Side::Payables, '1000.00', [
            'document_date' => '2026-04-01',
            'terms' => 'N30',
            'currency' => 'EUR',
        ]);
        ['criteria' => $criteria, 'bankAccountId' => $bank, 'method' => $method] = self::get(
            CriteriaReader::class,
        )->read($this->clerk, ['pay_date' => self::DAY, 'currency' => 'EUR']);
        $run = self::get(MakeProposal::class)->make($this->clerk, $criteria, $bank, $method);
        $account = $this->outlook($bank);
        self::assertSame(
            [110000, 1, 0, -110000],
            [$account['runs'], $account['count'], $account['uncounted'], $account['expected']],
        );
        self::assertStringContainsString(
            '1,000.00 EUR from',
            $this->page('/TEST/payables/proposal/'.$run)
                ->filter('footer')
                ->text(),
        );
        self::assertStringContainsString(
            '−1,100.00',
            $this->page('/TEST/payables/proposal/'.$run.'/books')
                ->filter('svg.cash')
                ->text(),
        );
        $this->db()->executeStatement('DELETE FROM exchange_rate');
        self::assertNull(
            self::get(BankOutlook::class)->taken($this->clerk->companyId, $account, 100000, 'EUR', Day::of(self::DAY)),
        );
        self::assertStringContainsString(
            'No rate says what this run takes',
            $this->page('/TEST/payables/proposal/'.$run.'/books')->text(),
        );
    }
}
