<?php

declare(strict_types=1);

namespace Nelbix\Tests\App;

use Brick\Math\BigDecimal;
use Nelbix\App\Books\PlacementRequest;
use Nelbix\App\Books\UndoSettlement;
use Nelbix\App\Close\Revaluation\GainsQuery;
use Nelbix\App\Close\Revaluation\PostRevaluation;
use Nelbix\App\Close\Revaluation\ProposeRevaluation;
use Nelbix\App\Close\TieOut\TieOutCurrencies;
use Nelbix\App\Close\TieOut\TieOutQuery;
use Nelbix\App\Ledger\SaveRate;
use Nelbix\App\Ledger\SimulatedRateFeed;
use Nelbix\App\Ledger\TakeRates;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Ledger\AccountRole;
use Nelbix\Core\Ledger\DocumentKind;
use Nelbix\Core\Ledger\Side;

/** Rates of a company, and the revaluation of its open items. Sources: rules.md; IAS 21.23, 21.28, 21.29. */
final class RevaluationPostTest extends ScreenCase
{
    private const MAY = '2026-05-31';

    protected function setUp(): void
    {
        parent::setUp();
        foreach (['2026-05-01' => '1.10', '2026-05-29' => '1.15', '2026-06-10' => '1.12'] as $day => $rate) {
            $this->rate($day, $rate);
        }
    }

    private function rate(string $day, string $rate, ?string $why = null): bool
    {
        return self::get(SaveRate::class)->save(
            $this->clerk,
            Day::of($day),
            'EUR',
            'USD',
            BigDecimal::of($rate),
            'typed',
            $why,
        );
    }

    private function revalue(string $day = self::MAY): int
    {
        $proposed = self::get(ProposeRevaluation::class)->of($this->clerk->companyId, 'USD', Day::of($day));

        return self::get(PostRevaluation::class)->post($this->clerk, Day::of($day), $proposed->digest());
    }

    private function sold(string $amount = '1000.00'): int
    {
        return $this->invoice(Side::Receivables, $amount, ['document_date' => '2026-05-10', 'currency' => 'EUR']);
    }

    /** The table's door, not only the form's: a rate from a file is never kept as another one. */
    public function testARateOutOfRangeIsRefusedWhereverItComesFrom(): void
    {
        foreach (['99999999999', '0.000001', '0'] as $rate) {
            self::assertSame(['rate'], self::refusedFields(fn () => $this->rate('2026-06-11', $rate)), $rate);
        }
        self::assertSame(
            0,
            (int) $this->db()->fetchOne("SELECT COUNT(*) FROM exchange_rate WHERE valid_on = '2026-06-11'"),
        );
    }

    public function testItStandsBesideTheControlAccountOnItsDayAndIsTakenBackOnTheNext(): void
    {
        $this->sold();
        $this->invoice(Side::Payables, '400.00', ['document_date' => '2026-05-10', 'currency' => 'EUR']);
        $this->money(Side::Receivables, 5000, kind: DocumentKind::Prepayment, date: '2026-05-12');
        $this->revalue();
        // 1,000.00 at 1.15 instead of 1.10 is 50.00 gained; 400.00 owed is 20.00 lost
        self::assertSame(
            [5000, -2000, -3000],
            [$this->heldOn('1210', self::MAY), $this->heldOn('2105', self::MAY), $this->heldOn('7950', self::MAY)],
        );
        self::assertSame(
            [0, 0, 0],
            [
                $this->heldOn('1210', '2026-06-01'),
                $this->heldOn('2105', '2026-06-01'),
                $this->heldOn('7950', '2026-06-01'),
            ],
        );
        foreach (self::get(TieOutQuery::class)->of($this->clerk->companyId, Day::of(self::MAY)) as $r) {
            self::assertSame(0, $r['tie']->difference(), $r['name'].' keeps what was agreed');
        }
        $receivables = (int) $this->db()->fetchOne(
            "SELECT id FROM account WHERE company_id = ? AND role = 'receivables'",
            [$this->clerk->companyId],
        );
        $this->invoice(Side::Receivables, '70.00', ['document_date' => '2026-05-12']);
        self::assertSame(
            ['EUR' => ['ledger' => 100000, 'items' => 100000], 'USD' => ['ledger' => 7000, 'items' => 7000]],
            self::get(TieOutCurrencies::class)->of(
                $this->clerk->companyId,
                $receivables,
                AccountRole::Receivables,
                Day::of(self::MAY),
            ),
        );
        $gains = self::get(GainsQuery::class);
        foreach ([['2026-05-01', self::MAY, 3000], ['2026-06-01', self::DAY, -3000]] as [$from, $to, $amount]) {
            foreach (GainsQuery::BY as $by) {
                $rows = $gains->of($this->clerk->companyId, Day::of($from), Day::of($to), $by);
                self::assertSame($amount, array_sum(array_column($rows, 'unrealised')), $by);
            }
            self::assertSame(
                ['realised' => 0, 'unrealised' => $amount],
                $gains->ledger($this->clerk->companyId, Day::of($from), Day::of($to)),
            );
        }
    }

    public function testItNeverChangesWhatIsRealised(): void
    {
        $sold = $this->sold();
        $this->revalue();
        $this->money(
            Side::Receivables,
            100000,
            [new PlacementRequest($this->itemOf($sold), 100000)],
            [],
            '2026-06-12',
            currency: 'EUR',
        );
        // invoiced at 1.10, received at 1.12: 20.00 gained, whatever was unrealised meanwhile
        self::assertSame(-2000, $this->heldOn('7900', self::DAY));
        $gains = self::get(GainsQuery::class);
        $june = $gains->of($this->clerk->companyId, Day::of('2026-06-01'), Day::of(self::DAY), 'party');
        self::assertSame(
            [['Gannet Sailing School', 2000, -5000]],
            array_map(static fn (array $r): array => [$r['name'], $r['realised'], $r['unrealised']], $june),
        );
        // IAS 21.29: the change of June, 1.15 to 1.12
        self::assertSame(-3000, $june[0]['realised'] + $june[0]['unrealised']);
        $settlement = (int) $this->db()->fetchOne('SELECT MAX(id) FROM settlement WHERE company_id = ?', [
            $this->clerk->companyId,
        ]);
        self::get(UndoSettlement::class)->undo($this->clerk, $settlement);
        self::assertSame(0, $this->heldOn('7900', '2026-12-31'));
    }

    public function testItIsRepeatableAndCanBeUndone(): void
    {
        $this->sold();
        $first = $this->revalue();
        self::assertSame(['as_of'], self::refusedFields(fn () => $this->revalue()), 'nothing has changed');
        $this->invoice(Side::Receivables, '100.00', ['document_date' => '2026-05-11', 'currency' => 'EUR']);
        $seen = self::get(ProposeRevaluation::class)->of($this->clerk->companyId, 'USD', Day::of(self::MAY))->digest();
        $this->invoice(Side::Receivables, '1.00', ['document_date' => '2026-05-11', 'currency' => 'EUR']);
        self::assertSame(
            [''],
            self::refusedFields(
                fn () => self::get(PostRevaluation::class)->post($this->clerk, Day::of(self::MAY), $seen),
            ),
            'an item came in since the page was looked at',
        );
        $second = $this->revalue();
        self::assertSame([5505, 0], [$this->heldOn('1210', self::MAY), $this->heldOn('1210', '2026-06-01')]);
        $undo = self::get(PostRevaluation::class);
        self::assertSame([''], self::refusedFields(fn () => $undo->undo($this->clerk, $first, 'it was replaced')));
        self::assertSame(['why'], self::refusedFields(fn () => $undo->undo($this->clerk, $second, ' ')));
        $undo->undo($this->clerk, $second, 'the rate was wrong');
        self::assertSame([0, 0], [$this->heldOn('1210', self::MAY), $this->heldOn('7950', self::MAY)]);
        self::assertSame([''], self::refusedFields(fn () => $undo->undo($this->clerk, $second, 'again')));
        $this->revalue();
        self::assertSame(5505, $this->heldOn('1210', self::MAY));
    }

    public function testALockedPeriodRefusesIt(): void
    {
        $this->sold();
        foreach (['2026-05-01', '2026-06-01'] as $month) {
            $this->db()->executeStatement('UPDATE period SET ledger_locked = first_day = ? WHERE company_id = ?', [
                $month,
                $this->clerk->companyId,
            ]);
            self::assertSame(['posting_date'], self::refusedFields(fn () => $this->revalue()), $month);
        }
        self::assertSame(0, (int) $this->db()->fetchOne('SELECT COUNT(*) FROM revaluation WHERE live = 1'));
    }

    public function testTheLastRateBeforeAMissingDayIsUsedAndSaid(): void
    {
        $this->sold();
        $proposed = self::get(ProposeRevaluation::class)->of($this->clerk->companyId, 'USD', Day::of(self::MAY));
        self::assertSame(['rate' => '1.15', 'day' => '2026-05-29'], $proposed->rates['EUR']);
        $this->as('auditor');
        self::assertStringContainsString(
            'the last rate, of 29 May 2026',
            $this->page('/TEST/close/revaluation?as_of=2026-05-31')->filter('main')->text(),
        );
    }

    public function testARateIsChangedWithAReasonAndNeverUnderWhatWasPosted(): void
    {
        self::assertFalse($this->rate('2026-05-29', '1.15'), 'the same again changes nothing');
        self::assertSame(['rate'], self::refusedFields(fn () => $this->rate('2026-05-29', '1.16')), 'nobody to ask');
        self::assertSame(['why'], self::refusedFields(fn () => $this->rate('2026-05-29', '1.16', ' ')));
        self::assertTrue($this->rate('2026-05-29', '1.16', 'a slip of the finger'));
        $this->sold();
        self::assertSame(['rate'], self::refusedFields(fn () => $this->rate('2026-05-01', '1.11', 'too late')));
        $this->invoice(Side::Payables, '5.00', [
            'document_date' => '2026-06-12',
            'currency' => 'EUR',
            'rate' => '1.30',
        ]);
        self::assertTrue($this->rate('2026-06-10', '1.13', 'a typed rate is not the table’s'));
    }

    public function testTheFeedAndAFileOfReferenceRatesAreTakenIn(): void
    {
        $feed = new SimulatedRateFeed();
        $saturday = $feed->publishedOn(Day::of('2026-06-13'));
        self::assertSame($saturday, $feed->publishedOn(Day::of('2026-06-12')), 'the last working day');
        self::assertNotSame($saturday, $feed->publishedOn(Day::of('2026-06-15')));
        $taken = self::get(TakeRates::class)->take($this->clerk, $saturday, 'feed');
        self::assertSame([1, 12, 0, []], [$taken['days'], $taken['new'], $taken['same'], $taken['others']]);
        $again = self::get(TakeRates::class)->take($this->clerk, $saturday, 'feed');
        self::assertSame([0, 12], [$again['new'], $again['same']]);
        $this->as('controller');
        $file = str_replace(['2026-06-12', 'rate="1.'], ['2026-06-10', 'rate="2.'], $saturday);
        $page = $this->postFile($file);
        self::assertStringContainsString('another rate is there for EUR of 2026-06-10, and stays', $page);
        self::assertStringContainsString('no reference rates', $this->postFile('date,from,to,rate'));
    }

    private function postFile(string $bytes): string
    {
        $path = '/TEST/close/rates/file';
        $this->browser->request('GET', '/TEST/close/rates');
        $token = $this->browser->getCrawler()->filter('input[name=_token]')->last()->attr('value');
        $this->browser->request(
            'POST',
            $path,
            ['_token' => $token],
            ['file' => self::upload($bytes, 'rates.xml', 'application/xml')],
        );

        return $this->browser->followRedirect()->filter('main')->text();
    }

    public function testByThePage(): void
    {
        $this->sold();
        $this->as('controller');
        $page = $this->page('/TEST/close/revaluation?as_of=2026-05-31&by=item');
        self::assertStringContainsString('50.00', $page->filter('.side.entry')->text());
        $this->browser->submit($page->filter('form[data-main]')->form());
        self::assertStringContainsString(
            'taken back on 1 Jun 2026',
            $this->browser->followRedirect()->filter('.said-done')->text(),
        );
        $page = $this->page('/TEST/close/revaluation?as_of=2026-05-31&by=account');
        self::assertStringContainsString('nothing has changed since', $page->filter('.foot')->text());
        self::assertCount(0, $page->filter('form[data-main]'));
        foreach (
            ['/TEST/close/revaluation?as_of=2026-05-31&by=party', '/TEST/close/gains?by=document', '/TEST/close/rates'] as $path
        ) {
            $this->browser->request('GET', $path.(str_contains($path, '?') ? '&' : '?').'format=csv');
            self::assertSame(200, $this->browser->getResponse()->getStatusCode());
        }
        self::assertStringContainsString('agrees', $this->page('/TEST/close/gains?by=period')->filter('.foot')->text());
        // 1 GBP = 1.30 USD, 1 EUR = 1.12 USD, so 1 GBP = 1.1607142857 EUR, by way of the base
        self::get(SaveRate::class)->save(
            $this->clerk,
            Day::of('2026-06-01'),
            'GBP',
            'USD',
            BigDecimal::of('1.30'),
            'typed',
        );
        self::assertStringContainsString(
            '1.1607142857',
            $this->page('/TEST/close/rates?currency=EUR')->filter('table')->text(),
        );
        $rates = $this->page('/TEST/close/rates');
        $this->browser->submit(
            $rates
                ->filter('form[data-main]')
                ->form(['currency' => 'eur', 'rate' => '1.125', 'valid_on' => '2026-06-11']),
        );
        self::assertStringContainsString(
            '1 EUR is 1.125 USD',
            $this->browser->followRedirect()->filter('.said-done')->text(),
        );
    }
}
