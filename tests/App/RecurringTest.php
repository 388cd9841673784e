<?php

declare(strict_types=1);

namespace Nelbix\Tests\App;

use Nelbix\App\Invoices\ChangeRecurring;
use Nelbix\App\Invoices\KeepRecurring;
use Nelbix\App\Invoices\PrepareRecurring;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Ledger\Side;

/** Recurring documents are prepared as drafts, each day once. */
final class RecurringTest extends AppCase
{
    /** @param array<string, string> $more */
    private function begin(array $more = []): int
    {
        $id = $this->invoice(Side::Payables, '1200.00', [
            'number' => bin2hex(random_bytes(4)),
            'document_date' => '2026-01-31',
            'posting_date' => '2026-06-10',
            'lines' => [['account' => '6000', 'amount' => '1200.00', 'text' => 'rent']],
        ]);

        return self::get(KeepRecurring::class)->begin($this->clerk, Side::Payables, $id, [
            'name' => 'rent',
            'every' => 'month',
            'first_on' => '2026-01-31',
            ...$more,
        ]);
    }

    /** @return list<string> document dates of the drafts */
    private function drafts(): array
    {
        return array_map(
            'strval',
            $this->db()->fetchFirstColumn(
                "SELECT document_date FROM document WHERE state = 'draft' ORDER BY document_date",
            ),
        );
    }

    public function testWhatIsDueIsPreparedOnce(): void
    {
        $this->begin();
        $prepare = self::get(PrepareRecurring::class);
        self::assertSame(3, $prepare->prepare($this->clerk, Day::of('2026-04-29')));
        self::assertSame(['2026-01-31', '2026-02-28', '2026-03-31'], $this->drafts());
        self::assertSame(0, $prepare->prepare($this->clerk, Day::of('2026-04-29')), 'not twice');
        self::assertSame(1, $prepare->prepare($this->clerk, Day::of('2026-04-30')));
        self::assertSame(0, $prepare->prepare($this->clerk, Day::of('2026-05-31'), Side::Receivables));
        self::assertSame(
            120000,
            (int) $this->db()->fetchOne("SELECT total FROM document WHERE state = 'draft' LIMIT 1"),
        );
        self::assertSame(
            1,
            (int) $this->db()->fetchOne('SELECT COUNT(*) FROM journal_entry'),
            'nothing is posted by itself',
        );
    }

    public function testItEndsIsStoppedAndAsksTheAmount(): void
    {
        $id = $this->begin([
            'every' => 'weeks',
            'weeks' => '2',
            'first_on' => '2026-06-01',
            'most' => '2',
            'ask_amount' => 'yes',
        ]);
        $prepare = self::get(PrepareRecurring::class);
        $keep = self::get(KeepRecurring::class);
        $keep->stop($this->clerk, Side::Payables, $id, true);
        self::assertSame(0, $prepare->prepare($this->clerk, Day::of('2026-12-31')));
        $keep->stop($this->clerk, Side::Payables, $id, false);
        self::assertSame(2, $prepare->prepare($this->clerk, Day::of('2026-12-31')));
        self::assertSame(['2026-06-01', '2026-06-15'], $this->drafts());
        self::assertSame(0, (int) $this->db()->fetchOne("SELECT SUM(total) FROM document WHERE state = 'draft'"));
        self::assertSame([''], self::refusedFields(fn () => $keep->stop($this->clerk, Side::Receivables, $id, true)));
    }

    public function testBadSchedulesAreRefused(): void
    {
        self::assertSame(
            ['name', 'every'],
            self::refusedFields(fn () => $this->begin(['name' => '', 'every' => 'sometimes'])),
        );
        self::assertSame(
            ['first_on', 'until_on', 'weeks', 'most'],
            self::refusedFields(
                fn () => $this->begin(['first_on' => 'x', 'until_on' => 'y', 'weeks' => '-1', 'most' => 'z']),
            ),
        );
        self::assertSame(['until_on'], self::refusedFields(fn () => $this->begin(['until_on' => '2026-01-01'])));
        self::assertSame(['weeks'], self::refusedFields(fn () => $this->begin(['every' => 'weeks', 'weeks' => '53'])));
    }

    public function testTheEndOfTheMonthIsItsLastDayFromTheFirstTimeOn(): void
    {
        $this->begin(['every' => 'month_end', 'first_on' => '2026-02-03']);
        self::get(PrepareRecurring::class)->prepare($this->clerk, Day::of('2026-03-31'));
        self::assertSame(['2026-02-28', '2026-03-31'], $this->drafts());
    }

    /** What is changed holds from the next time on; the days count anew only when they were changed. */
    public function testItIsChanged(): void
    {
        $id = $this->begin(['most' => '5']);
        $prepare = self::get(PrepareRecurring::class);
        $prepare->prepare($this->clerk, Day::of('2026-02-28'));
        $change = fn (array $more, int $version) => self::get(ChangeRecurring::class)->change(
            $this->clerk,
            Side::Payables,
            $id,
            [
                'name' => 'rent',
                'every' => 'month',
                'first_on' => '2026-03-31',
                'most' => '3',
                'terms' => '2-10-N30',
                'lines' => [['account' => '6000', 'text' => 'rent', 'amount' => '1200.00']],
                ...$more,
            ],
            $version,
        );
        $change(['lines' => [['account' => '6000', 'text' => 'rent', 'amount' => '1,350']], 'name' => 'the yard'], 3);
        self::assertSame(
            'name from rent to the yard; line 1 from 6000 rent 1200.00 to 6000 rent 1,350',
            $this->db()->fetchOne("SELECT detail FROM history WHERE subject = 'recurring' AND action = 'changed'"),
        );
        $prepare->prepare($this->clerk, Day::of('2026-03-31'));
        self::assertSame(['2026-01-31', '2026-02-28', '2026-03-31'], $this->drafts(), 'the 31st is not forgotten');
        self::assertSame(
            ['120000', '120000', '135000'],
            array_map(
                'strval',
                $this->db()->fetchFirstColumn(
                    "SELECT total FROM document WHERE state = 'draft' ORDER BY document_date",
                ),
            ),
        );
        self::assertSame([''], self::refusedFields(fn () => $change([], 3)), 'a page from before it was prepared');

        $change(['every' => 'weeks', 'weeks' => '1', 'first_on' => '2026-05-04', 'most' => '2'], 5);
        $prepare->prepare($this->clerk, Day::of('2026-12-31'));
        self::assertSame(['2026-05-04', '2026-05-11'], \array_slice($this->drafts(), 3), 'twice more and no more');
        self::assertSame(
            ['name', 'lines.0.account', 'lines.0.amount'],
            self::refusedFields(
                fn () => $change(['name' => '', 'lines' => [['account' => '9999', 'amount' => 'much']]], 8),
            ),
        );
        self::assertSame(['lines.0.amount'], self::refusedFields(fn () => $change(['lines' => []], 8)));
    }

    public function testTheScreensAndTheWorker(): void
    {
        $browser = self::getContainer()->get('test.client');
        self::assertInstanceOf(\Symfony\Bundle\FrameworkBundle\KernelBrowser::class, $browser);
        $browser->disableReboot();
        SignedIn::as($browser, 'controller');
        $id = $this->invoice(Side::Payables, '90.00', [
            'number' => 'S-1',
            'document_date' => '2026-05-31',
            'description' => 'storage',
        ]);
        $form = $browser
            ->request('GET', '/TEST/payables/recurring/like/'.$id)
            ->filter('#recurring')
            ->form();
        self::assertSame(['storage', '30 Jun 2026'], [self::value($form, 'name'), self::value($form, 'first_on')]);
        $days = $browser->request('POST', '/TEST/payables/recurring/days', [
            ...$form->getPhpValues(),
            'every' => 'month_end',
            'first_on' => '2026-02-01',
            'most' => '3',
        ]);
        self::assertSame(
            ['28 Feb 2026', '31 Mar 2026', '30 Apr 2026', 'and then no more'],
            $days->filter('li')->each(static fn ($li): string => $li->text()),
        );
        $browser->submit($form, ['first_on' => '2026-06-01']);
        $list = $browser->followRedirect();
        self::assertStringContainsString('every month', $list->filter('table.list')->text());
        self::assertStringContainsString(
            'recurring vendor document is due',
            $browser->request('GET', '/TEST')->filter('main')->text(),
        );
        $browser->submit($browser->request('GET', '/TEST/payables/recurring')->filter('form[action$=prepare]')->form());
        self::assertStringContainsString(
            '1 draft is prepared',
            $browser->followRedirect()->filter('.said-done')->text(),
        );
    }
}
