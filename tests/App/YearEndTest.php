<?php

declare(strict_types=1);

namespace Nelbix\Tests\App;

use Brick\Math\BigDecimal;
use Nelbix\App\Books\PlacementRequest;
use Nelbix\App\Close\Revaluation\GainsQuery;
use Nelbix\App\Close\Year\CloseYear;
use Nelbix\App\Close\Year\ProposeYearEnd;
use Nelbix\App\Ledger\SaveRate;
use Nelbix\App\Platform\Actor;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Ledger\Side;

/** The close of a year. Source: rules.md, Year and seal; the amounts are added up by hand. */
final class YearEndTest extends ScreenCase
{
    protected function setUp(): void
    {
        parent::setUp();
        $this->invoice(Side::Receivables, '900.00', ['document_date' => '2025-11-10']);
        $this->invoice(Side::Payables, '250.00', ['document_date' => '2025-12-31']);
        $this->invoice(Side::Payables, '40.00', ['document_date' => '2026-01-02']);
    }

    private function close(int $year = 2025): string
    {
        $proposed = self::get(ProposeYearEnd::class)->of($this->clerk->companyId, 'USD', $year);

        return self::get(CloseYear::class)->close($this->clerk, $year, $proposed->digest());
    }

    public function testIncomeAndExpenseCloseToRetainedEarningsAndTheNewYearStartsFromZero(): void
    {
        self::assertSame('JE-25-00003', $this->close());
        self::assertSame(
            [0, 0, -65000],
            [
                $this->heldOn('4000', '2025-12-31'),
                $this->heldOn('5000', '2025-12-31'),
                $this->heldOn('3900', '2025-12-31'),
            ],
        );
        self::assertSame(4000, $this->heldOn('5000', '2026-01-31'), 'only what the new year brought');
        $this->invoice(Side::Payables, '1.00', ['document_date' => '2026-01-03']);
        self::assertSame(
            'JE-26-00002',
            $this->db()->fetchOne('SELECT MAX(number) FROM journal_entry WHERE company_id = ? AND year = 2026', [
                $this->clerk->companyId,
            ]),
            'numbers start anew',
        );
    }

    public function testALaterPostingAsksForItAgainAndEachCloseIsUndoneLastFirst(): void
    {
        $this->close();
        self::assertSame(['year'], self::refusedFields(fn () => $this->close()), 'nothing is left');
        $this->invoice(Side::Payables, '10.00', ['document_date' => '2025-12-30']);
        $this->close();
        self::assertSame([0, -64000], [$this->heldOn('5000', '2025-12-31'), $this->heldOn('3900', '2025-12-31')]);
        $closes = array_map('intval', $this->db()->fetchFirstColumn('SELECT id FROM year_end ORDER BY id'));
        $year = self::get(CloseYear::class);
        self::assertSame([''], self::refusedFields(fn () => $year->undo($this->clerk, $closes[0], 'x')));
        self::assertSame(['why'], self::refusedFields(fn () => $year->undo($this->clerk, $closes[1], '')));
        $year->undo($this->clerk, $closes[1], 'one more invoice');
        $year->undo($this->clerk, $closes[0], 'one more invoice');
        self::assertSame([''], self::refusedFields(fn () => $year->undo($this->clerk, $closes[0], 'again')));
        self::assertSame([26000, 0], [$this->heldOn('5000', '2025-12-31'), $this->heldOn('3900', '2025-12-31')]);
    }

    /** Exchange differences of a year stay what they were, and the balance sheet knows what was closed. */
    public function testAfterTheCloseGainsStayAndTheResultIsInEquity(): void
    {
        self::get(SaveRate::class)->save(
            $this->clerk,
            Day::of('2025-11-01'),
            'EUR',
            'USD',
            BigDecimal::of('1.10'),
            'typed',
        );
        self::get(SaveRate::class)->save(
            $this->clerk,
            Day::of('2025-12-01'),
            'EUR',
            'USD',
            BigDecimal::of('1.12'),
            'typed',
        );
        $sold = $this->invoice(Side::Receivables, '100.00', ['document_date' => '2025-11-05', 'currency' => 'EUR']);
        $this->money(
            Side::Receivables,
            10000,
            [new PlacementRequest($this->itemOf($sold), 10000)],
            [],
            '2025-12-05',
            currency: 'EUR',
        );
        $this->close();
        $gains = self::get(GainsQuery::class);
        [$from, $to] = [Day::of('2025-01-01'), Day::of('2025-12-31')];
        self::assertSame(
            [['Gannet Sailing School', 200]],
            array_map(
                static fn (array $r): array => [$r['name'], $r['realised']],
                $gains->of($this->clerk->companyId, $from, $to, 'party'),
            ),
        );
        self::assertSame(200, $gains->ledger($this->clerk->companyId, $from, $to)['realised']);
        $page = $this->page('/TEST/close/results?from=2025-01-01&to=2025-12-31');
        self::assertStringContainsString('762.00', $page->filter('tfoot')->first()->text(), 'what the year earned');
        self::assertStringContainsString(
            '0.00',
            $page->filter('tfoot')->last()->text(),
            'nothing is left that is not closed',
        );
        self::assertStringContainsString('Retained earnings', $page->text());
    }

    public function testWhatIsRefused(): void
    {
        $year = self::get(CloseYear::class);
        $seen = self::get(ProposeYearEnd::class)->of($this->clerk->companyId, 'USD', 2025)->digest();
        $clerk = new Actor(
            $this->clerk->companyId,
            'USD',
            (int) $this->db()->fetchOne("SELECT id FROM app_user WHERE username = 'payables'"),
        );
        self::assertSame([''], self::refusedFields(fn () => $year->close($clerk, 2025, $seen)), 'no controller');
        self::assertSame(['year'], self::refusedFields(fn () => $this->close(2026)), 'it has not ended');
        self::assertSame(['year'], self::refusedFields(fn () => $this->close(1999)), 'no periods');
        $this->invoice(Side::Payables, '10.00', ['document_date' => '2025-12-30']);
        self::assertSame([''], self::refusedFields(fn () => $year->close($this->clerk, 2025, $seen)), 'an old page');
        $this->db()->executeStatement("UPDATE period SET ledger_locked = 1 WHERE first_day = '2025-12-01'");
        self::assertSame(['posting_date'], self::refusedFields(fn () => $this->close()));
        self::assertSame(0, (int) $this->db()->fetchOne('SELECT COUNT(*) FROM year_end'));
    }

    public function testByThePage(): void
    {
        $this->as('controller');
        $page = $this->page('/TEST/close/year-end');
        self::assertStringContainsString('650.00', $page->filter('tfoot')->text());
        $this->browser->submit($page->filter('form[data-main]')->form());
        self::assertStringContainsString('Closed 2025 by JE-25-00003', $this->browser->followRedirect()->text());
        self::assertStringContainsString(
            '2025 is closed',
            $this->page('/TEST/close/year-end?year=2025')->filter('.foot')->text(),
        );
        $this->invoice(Side::Payables, '10.00', ['document_date' => '2025-12-30']);
        self::assertStringContainsString(
            'close it again',
            $this->page('/TEST/close/year-end?year=2025')->filter('.foot')->text(),
        );
    }
}
