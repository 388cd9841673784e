<?php

declare(strict_types=1);

namespace Nelbix\Tests\App;

use Nelbix\App\Books\AdjustmentRequest;
use Nelbix\App\Books\PlacementRequest;
use Nelbix\App\Books\ReverseDocument;
use Nelbix\App\Close\Reports\BalancesQuery;
use Nelbix\App\Close\Reports\LedgerCard;
use Nelbix\App\Close\Reports\ReportsQuery;
use Nelbix\App\Close\TrialBalanceQuery;
use Nelbix\App\Close\Year\CloseYear;
use Nelbix\App\Close\Year\ProposeYearEnd;
use Nelbix\App\Ledger\Chart;
use Nelbix\App\Ledger\PostJournalEntry;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Ledger\DocumentKind;
use Nelbix\Core\Ledger\DraftLine;
use Nelbix\Core\Ledger\JournalDraft;
use Nelbix\Core\Ledger\Side;
use Nelbix\Core\Settlement\AdjustmentKind;

/** What the books say in lists: each adds up to the ledger. The amounts are worked by hand. */
final class ReportsTest extends ScreenCase
{
    private int $sold;

    protected function setUp(): void
    {
        parent::setUp();
        $this->invoice(Side::Receivables, '500.00', ['document_date' => '2025-12-10']);
        $this->sold = $this->invoice(Side::Receivables, '1000.00', [
            'document_date' => '2026-05-10',
            'lines' => [['account' => '4000', 'amount' => '1000.00', 'tax_code' => 'S8']],
        ]);
        $this->invoice(Side::Payables, '0', [
            'document_date' => '2026-05-11',
            'lines' => [
                ['account' => '5000', 'amount' => '100.00', 'tax_code' => 'P8'],
                ['account' => '6400', 'amount' => '40.00'],
            ],
        ]);
        $this->money(Side::Receivables, 3000, kind: DocumentKind::Prepayment, date: '2026-05-20');
    }

    private static function day(string $iso): Day
    {
        return Day::of($iso);
    }

    public function testTheTrialBalanceOpensMovesAndClosesAndTheNewYearStartsFromTheClose(): void
    {
        $proposed = self::get(ProposeYearEnd::class)->of($this->clerk->companyId, 'USD', 2025);
        self::get(CloseYear::class)->close($this->clerk, 2025, $proposed->digest());
        $rows = fn (string $from, string $to, bool $before = false): array => array_column(
            array_map(
                static fn (array $r): array => [
                    'a'.$r['account'],
                    [$r['opening'], $r['debit'], $r['credit'], $r['closing']],
                ],
                self::get(TrialBalanceQuery::class)->span(
                    $this->clerk->companyId,
                    self::day($from),
                    self::day($to),
                    $before,
                ),
            ),
            1,
            0,
        );
        $old = $rows('2025-01-01', '2025-12-31');
        self::assertSame([[0, 50000, 50000, 0], [0, 0, 50000, -50000]], [$old['a4000'], $old['a3900']]);
        $before = $rows('2025-01-01', '2025-12-31', true);
        self::assertSame([0, 0, 50000, -50000], $before['a4000'], 'without the close');
        self::assertArrayNotHasKey('a3900', $before);
        $new = $rows('2026-01-01', self::DAY);
        self::assertSame([[0, 0, 100000, -100000], [-50000, 0, 0, -50000]], [$new['a4000'], $new['a3900']]);
        self::assertSame([50000, 108000, 0, 158000], $new['a1200']);
        foreach ([$old, $before, $new] as $tb) {
            foreach (range(0, 3) as $k) {
                self::assertSame(
                    0,
                    1 === $k || 2 === $k
                        ? array_sum(array_column($tb, 1)) - array_sum(array_column($tb, 2))
                        : array_sum(array_column($tb, $k)),
                );
            }
        }
    }

    public function testBalancesAgreeWithTheLedgerAndNameWhatHasNoItem(): void
    {
        $chart = self::get(Chart::class);
        $id = fn (string $n): int => $chart->any($this->clerk->companyId, $n, 'account');
        self::get(PostJournalEntry::class)->post(
            $this->clerk,
            JournalDraft::of('USD', [new DraftLine($id('1200'), -500, -500), new DraftLine($id('6400'), 500, 500)]),
            self::day('2026-05-25'),
            'by hand',
            true,
        );
        $accounts = [];
        foreach (self::get(BalancesQuery::class)->of($this->clerk->companyId, self::day(self::DAY)) as $a) {
            self::assertSame($a['ledger'], array_sum(array_column($a['rows'], 'balance')), $a['name']);
            $accounts[$a['account']] = array_column($a['rows'], 'balance', 'name');
        }
        self::assertSame(
            [
                '1200' => ['Gannet Sailing School' => 158000, 'in the ledger without an item' => -500],
                '2100' => ['Fenwick Timber' => 14800],
                '2150' => ['Gannet Sailing School' => 3000],
            ],
            $accounts,
        );
        self::assertStringContainsString(
            '1 account holds something without an item',
            $this->page('/TEST/close/balances')->text(),
        );
    }

    public function testTheCardRunsFromItsOpeningOnEveryPage(): void
    {
        $this->money(
            Side::Receivables,
            20000,
            [new PlacementRequest($this->itemOf($this->sold), 20000)],
            [],
            '2026-06-01',
        );
        $card = self::get(LedgerCard::class);
        $party = (int) $this->db()->fetchOne("SELECT id FROM party WHERE code = 'C-1' AND company_id = ?", [
            $this->clerk->companyId,
        ]);
        $of = $card->ofParty($party, self::day('2026-01-01'), self::day(self::DAY), null);
        self::assertSame([50000, 135000], [$of['opening'], $of['closing']]);
        self::assertSame([158000, 155000, 135000], array_column($of['rows'], 'balance'));
        $account = self::get(Chart::class)->any($this->clerk->companyId, '1200', 'account');
        $of = $card->ofAccount($account, self::day('2026-05-11'), self::day(self::DAY), null);
        self::assertSame(
            [158000, 138000, ['Gannet Sailing School']],
            [$of['opening'], $of['closing'], array_column($of['rows'], 'party')],
        );
        $this->as('payables');
        $this->browser->request('GET', '/TEST/close/party/'.$party);
        self::assertSame(404, $this->browser->getResponse()->getStatusCode(), 'a customer is not theirs to see');
    }

    public function testAnalysisTaxAndJournals(): void
    {
        $reports = self::get(ReportsQuery::class);
        [$from, $to] = [self::day('2026-01-01'), self::day(self::DAY)];
        $sum = array_sum(array_column($reports->analysis($this->clerk->companyId, $from, $to, 'cost_center'), 'base'));
        self::assertSame(-86000, $sum, '1,000.00 earned, 140.00 spent');
        $tax = array_map(
            static fn (array $r): array => [$r['number'], $r['code'], $r['net'], $r['tax'], $r['documents']],
            $reports->tax($this->clerk->companyId, $from, $to),
        );
        self::assertSame([[5, 'P8', 10000, 800, 1], [5, 'S8', 100000, 8000, 1]], $tax);
        self::get(ReverseDocument::class)->reverse($this->clerk, $this->sold, 'twice');
        $after = $reports->tax($this->clerk->companyId, $from, $to);
        self::assertSame([800, 0], [$after[0]['tax'], $after[1]['tax']], 'what is reversed takes its tax back');
        $kinds = array_map(
            fn (string $kind): int => $reports->entries($this->clerk->companyId, $from, $to, $kind, null, null)['count'],
            array_combine(array_keys(ReportsQuery::KINDS), array_keys(ReportsQuery::KINDS)),
        );
        $all = $reports->entries($this->clerk->companyId, $from, $to, '', null, null);
        self::assertSame($all['count'], array_sum($kinds), 'every entry is of one kind');
        self::assertSame([1, 2, 1], [$kinds['vendor_invoices'], $kinds['customer_invoices'], $kinds['receipts']]);
    }

    /** The card of a party and the journal of a batch are reached from where one works. */
    public function testTheWayThere(): void
    {
        $party = (int) $this->db()->fetchOne("SELECT id FROM party WHERE code = 'C-1' AND company_id = ?", [
            $this->clerk->companyId,
        ]);
        $this->as('receivables');
        $this->browser->click(
            $this->page('/TEST/receivables/party/'.$party)
                ->selectLink('Ledger card')
                ->link(),
        );
        self::assertStringContainsString('ledger card', $this->browser->getCrawler()->filter('.head')->text());
        $this->db()->executeStatement(
            <<<'SQL'
            INSERT INTO batch (id, company_id, side, name, posting_date, posted_at, created_by_id, created_at)
            VALUES (7, ?, 'payables', 'May', '2026-05-01', NOW(), ?, NOW())
            SQL
            ,
            [$this->clerk->companyId, $this->clerk->userId],
        );
        $this->db()->executeStatement("UPDATE document SET batch_id = 7 WHERE side = 'payables' AND company_id = ?", [
            $this->clerk->companyId,
        ]);
        $this->as('payables');
        $this->browser->click($this->page('/TEST/payables/batches/7')->selectLink('Its journal')->link());
        self::assertStringContainsString('1 entry', $this->browser->getCrawler()->filter('tfoot')->text());
    }

    public function testWhatWasWithheldByPartyAndYear(): void
    {
        $this->db()->executeStatement("UPDATE party SET withholding_percent = 10 WHERE code = 'V-1'");
        $invoice = $this->itemOf(
            $this->invoice(Side::Payables, '200.00', ['document_date' => '2026-06-01', 'terms' => 'N30']),
        );
        $this->money(
            Side::Payables,
            18000,
            [new PlacementRequest($invoice, 20000)],
            [new AdjustmentRequest($invoice, AdjustmentKind::Withholding, -2000)],
        );
        self::assertSame(
            [['Fenwick Timber', 2026, 2000, 1]],
            array_map(
                static fn (array $r): array => [$r['name'], $r['year'], $r['withheld'], $r['settlements']],
                self::get(ReportsQuery::class)->withheld(
                    $this->clerk->companyId,
                    self::day('2026-01-01'),
                    self::day(self::DAY),
                ),
            ),
        );
    }

    public function testEachPageAndItsFiles(): void
    {
        $this->as('auditor');
        $account = self::get(Chart::class)->any($this->clerk->companyId, '1200', 'account');
        foreach (
            [
                'trial-balance?close=before',
                'results?from=2026-01-01&to=2026-06-15',
                'balances?as_of=2026-05-31',
                'entries?kind=receipts',
                'analysis?by=project',
                'tax?from=2026-05-01',
                'withheld?from=2025-01-01',
                'account/'.$account.'?from=2026-05-01',
            ] as $path
        ) {
            $page = $this->page('/TEST/close/'.$path);
            self::assertCount(0, $page->filter('[role=alert]'), $path);
            foreach ($page->filter('table a')->links() as $link) {
                $this->browser->click($link);
                self::assertSame(200, $this->browser->getResponse()->getStatusCode(), $link->getUri());
            }
            foreach (['csv', 'xlsx', 'pdf'] as $format) {
                $this->browser->request(
                    'GET',
                    '/TEST/close/'.$path.(str_contains($path, '?') ? '&' : '?').'format='.$format,
                );
                self::assertSame(200, $this->browser->getResponse()->getStatusCode(), $path.' '.$format);
            }
        }
        self::assertStringContainsString(
            'Assets are liabilities, equity and result',
            $this->page('/TEST/close/results')->filter('.foot')->text(),
        );
        self::assertStringContainsString(
            'lies after the last',
            $this->page('/TEST/close/tax?from=2026-06-15&to=2026-06-01')->filter('[role=alert]')->text(),
        );
    }
}
