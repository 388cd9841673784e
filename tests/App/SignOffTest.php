<?php

declare(strict_types=1);

namespace Nelbix\Tests\App;

use Nelbix\App\Books\PlacementRequest;
use Nelbix\App\Books\ReverseDocument;
use Nelbix\App\Books\SettleItems;
use Nelbix\App\Books\SettlementRequest;
use Nelbix\App\Books\UndoSettlement;
use Nelbix\App\Close\TieOut\SignOffs;
use Nelbix\App\Close\TieOut\SignOffTieOut;
use Nelbix\App\Close\TieOut\TieOutQuery;
use Nelbix\App\Close\Verify;
use Nelbix\App\Ledger\Chart;
use Nelbix\App\Ledger\PostJournalEntry;
use Nelbix\App\Platform\Settings;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Ledger\DraftLine;
use Nelbix\Core\Ledger\JournalDraft;
use Nelbix\Core\Ledger\Side;
use Nelbix\Core\TieOut\AccountTie;

/** Signing a tie-out off, and what may be posted afterwards. Source: rules.md, Journal entries, Tie-out. */
final class SignOffTest extends ScreenCase
{
    private const MAY = '2026-05-31';

    private int $invoice;

    protected function setUp(): void
    {
        parent::setUp();
        $this->invoice = $this->invoice(Side::Receivables, '200.00', ['document_date' => '2026-05-10']);
    }

    private function lock(bool $locked = true): void
    {
        $this->db()->executeStatement(
            "UPDATE period SET ledger_locked = ? WHERE company_id = ? AND first_day <= '2026-05-31'",
            [(int) $locked, $this->clerk->companyId],
        );
    }

    private function tie(string $day = self::DAY, string $account = '1200'): AccountTie
    {
        foreach (self::get(TieOutQuery::class)->of($this->clerk->companyId, Day::of($day)) as $row) {
            if ($row['account'] === $account) {
                return $row['tie'];
            }
        }
        self::fail();
    }

    private function sign(
        string $account = '1200',
        string $note = '',
        ?string $digest = null,
        string $day = self::MAY,
    ): int {
        return self::get(SignOffTieOut::class)->sign(
            $this->clerk,
            Day::of($day),
            [$account => $digest ?? SignOffTieOut::digest($account, Day::of($day), $this->tie($day, $account))],
            $note,
        )[0];
    }

    private function bypass(string $day, int $amount): void
    {
        $chart = self::get(Chart::class);
        $id = fn (string $n): int => $chart->any($this->clerk->companyId, $n, 'account');
        self::get(PostJournalEntry::class)->post(
            $this->clerk,
            JournalDraft::of('USD', [
                new DraftLine($id('1200'), $amount, $amount),
                new DraftLine($id('4000'), -$amount, -$amount),
            ]),
            Day::of($day),
            'by hand',
            true,
        );
    }

    public function testTheLedgerMustBeLockedThroughTheDay(): void
    {
        self::assertSame(['as_of'], self::refusedFields(fn () => $this->sign()));
        $this->lock();
        $this->db()->executeStatement(
            "UPDATE period SET ledger_locked = 0 WHERE company_id = ? AND first_day = '2026-02-01'",
            [$this->clerk->companyId],
        );
        self::assertSame(['as_of'], self::refusedFields(fn () => $this->sign()), 'an earlier month is open');
        $this->lock();
        $this->sign();
        self::assertSame(['as_of'], self::refusedFields(fn () => $this->sign()), 'twice');
        self::assertSame(
            ['as_of'],
            self::refusedFields(fn () => $this->sign(day: '2026-07-01')),
            'a day that is still to come',
        );
    }

    public function testWhatIsSignedIsWhatWasSeen(): void
    {
        $seen = SignOffTieOut::digest('1200', Day::of(self::MAY), $this->tie(self::MAY));
        $this->invoice(Side::Receivables, '1.00', ['document_date' => '2026-05-11']);
        $this->lock();
        self::assertSame([''], self::refusedFields(fn () => $this->sign(digest: $seen)));
    }

    public function testADifferenceIsAcceptedInWordsAndStandsInItsOwnLineAfterwards(): void
    {
        $this->bypass('2026-05-20', -4000);
        $this->lock();
        self::assertSame(['note'], self::refusedFields(fn () => $this->sign()));
        $id = $this->sign(note: 'the old bad debt, to be cleared in June');
        $one = self::get(SignOffs::class)->of($this->clerk->companyId, $id)[0];
        self::assertSame([16000, 20000, 1], [$one['ledger'], $one['items'], $one['item_count']]);
        self::assertSame('bypass entry', $one['explained_by'][0]['why']);
        $tie = $this->tie();
        self::assertSame(
            [[-4000, 'difference of days before the last sign-off']],
            array_map(static fn ($e): array => [$e->amount, $e->why], $tie->explainedBy),
        );
        self::assertNull($tie->breakDay, 'it is not away from what was signed off');
        $this->bypass('2026-06-03', -100);
        $tie = $this->tie();
        self::assertSame('2026-06-03', $tie->breakDay);
        self::assertSame($tie->difference(), array_sum(array_map(static fn ($e): int => $e->amount, $tie->explainedBy)));
    }

    public function testNothingIsPostedIntoASignedOffDayWhicheverDoorItComesThrough(): void
    {
        $receipt = $this->money(Side::Receivables, 5000, [], [], '2026-05-20');
        $settled = $this->money(
            Side::Receivables,
            3000,
            [new PlacementRequest($this->itemOf($this->invoice), 3000)],
            [],
            '2026-05-21',
        );
        $this->lock();
        $this->sign();
        $this->lock(false); // a controller opens the month again; the sign-off stays
        self::assertSame(
            ['posting_date'],
            self::refusedFields(
                fn () => $this->invoice(Side::Receivables, '9.00', [
                    'document_date' => '2026-05-12',
                    'posting_date' => self::MAY,
                ]),
            ),
        );
        self::assertNotSame(
            [],
            self::refusedFields(fn () => $this->money(Side::Receivables, 100, [], [], '2026-05-30')),
        );
        self::assertSame(['posting_date'], self::refusedFields(fn () => $this->bypass('2026-05-31', 100)));
        $settle = fn () => self::get(SettleItems::class)->settle(
            $this->clerk,
            new SettlementRequest(
                Side::Receivables,
                [
                    new PlacementRequest($this->itemOf($this->invoice), 1000),
                    new PlacementRequest($this->itemOf($receipt), -1000),
                ],
                [],
                Day::of('2026-05-25'),
            ),
        );
        self::assertNotSame([], self::refusedFields($settle), 'a settlement that posts nothing moves items too');
        // what is undone without a date of its own goes to the first day that is not signed off
        $undone = (int) $this->db()->fetchOne('SELECT id FROM settlement WHERE document_id = ?', [$settled]);
        self::get(UndoSettlement::class)->undo($this->clerk, $undone);
        self::assertSame(
            '2026-06-01',
            $this->db()->fetchOne('SELECT undone_on FROM settlement WHERE id = ?', [$undone]),
        );
        self::get(ReverseDocument::class)->reverse($this->clerk, $this->invoice, 'entered twice');
        self::assertSame(
            '2026-06-01',
            $this->db()->fetchOne('SELECT posting_date FROM document WHERE reverses_id = ?', [$this->invoice]),
        );
        self::assertSame(12000, $this->tie(self::MAY)->items, 'the signed day is as it was');
        $this->invoice(Side::Payables, '9.00', ['document_date' => '2026-05-12', 'posting_date' => self::MAY]);
        self::assertSame(900, $this->tie(self::MAY, '2100')->items, 'the other side was not signed off');
    }

    public function testWhereTheCompanySaysSoItIsPostedAndShowsForEver(): void
    {
        $this->lock();
        $id = $this->sign();
        $this->lock(false);
        self::get(Settings::class)->keep($this->clerk->companyId, ['signed_off_days' => 'marked']);
        $this->invoice(Side::Receivables, '9.00', ['document_date' => '2026-05-12', 'posting_date' => self::MAY]);
        $this->bypass('2026-05-31', 100);
        $one = self::get(SignOffs::class)->of($this->clerk->companyId, $id)[0];
        self::assertSame(
            [20000, 20000, 1, 1000, 2],
            [$one['ledger'], $one['items'], $one['item_count'], $one['moved'], $one['entries']],
        );
        self::assertSame(
            [[100, 'moved since it was signed off']],
            array_map(static fn ($e): array => [$e->amount, $e->why], $this->tie()->explainedBy),
        );
        $this->as('auditor');
        $page = $this->page('/TEST/close/sign-off/'.$id);
        self::assertStringContainsString(
            '2 entries dated in the signed-off days were posted since',
            $page->filter('main')->text(),
        );
        self::assertStringContainsString('200.00', $page->filter('table.sums')->text());
        self::assertStringContainsString('2 entries since', $this->page('/TEST/close/tie-out')->filter('main')->text());
    }

    public function testTheCopyIsSealed(): void
    {
        $this->lock();
        $id = $this->sign();
        $found = fn (): array => self::get(Verify::class)->of($this->clerk->companyId)[8];
        self::assertSame([], $found());
        foreach (
            [
                [
                    'sign_off_item SET open = open + 1 WHERE sign_off_id = ?',
                    'sign_off_item SET open = open - 1 WHERE sign_off_id = ?',
                ],
                ['sign_off SET ledger = ledger + 1 WHERE id = ?', 'sign_off SET ledger = ledger - 1 WHERE id = ?'],
            ] as [$break, $mend]
        ) {
            $this->db()->executeStatement('UPDATE '.$break, [$id]);
            self::assertCount(1, $found(), $break);
            $this->db()->executeStatement('UPDATE '.$mend, [$id]);
        }
        self::assertSame([], $found());
    }

    public function testByThePage(): void
    {
        $this->bypass('2026-05-20', -4000);
        $this->lock();
        $this->as('controller');
        $page = $this->page('/TEST/close/tie-out?as_of=2026-05-31&account=1200&span=731');
        self::assertStringContainsString('1 record moved it by −40.00', $page->filter('#moved')->text());
        self::assertStringContainsString(
            'nothing moved the difference',
            $this->page((string) $page->filter('[data-break]')->attr('data-break').'&day=2026-05-19')->text(),
        );
        $this->browser->request('GET', '/TEST/close/tie-out/day/1');
        self::assertSame(404, $this->browser->getResponse()->getStatusCode());
        $form = $this->page('/TEST/close/tie-out?as_of=2026-05-31')->filter('#sign')->form();
        $this->browser->submit($form);
        $said = $this->browser->followRedirect()->filter('.said-done')->text();
        self::assertStringContainsString('Signed off 8 control accounts as of 31 May 2026.', $said);
        self::assertSame(
            8,
            (int) $this->db()->fetchOne('SELECT COUNT(*) FROM sign_off WHERE company_id = ?', [
                $this->clerk->companyId,
            ]),
        );
        foreach (['csv', 'xlsx', 'pdf'] as $format) {
            $id = (int) $this->db()->fetchOne('SELECT MIN(id) FROM sign_off WHERE company_id = ?', [
                $this->clerk->companyId,
            ]);
            $this->browser->request('GET', '/TEST/close/sign-off/'.$id.'?format='.$format);
            self::assertSame(200, $this->browser->getResponse()->getStatusCode());
        }
    }
}
