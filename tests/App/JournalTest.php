<?php

declare(strict_types=1);

namespace Nelbix\Tests\App;

use Nelbix\App\Close\Journal\DecideManualEntry;
use Nelbix\App\Close\Journal\JournalReader;
use Nelbix\App\Close\Journal\KeepManualEntry;
use Nelbix\App\Close\Journal\ManualEntry;
use Nelbix\App\Close\Journal\PostedManual;
use Nelbix\App\Close\Journal\PostManualEntry;
use Nelbix\App\Close\Journal\RecurringEntries;
use Nelbix\App\Close\Journal\ReverseManualEntry;
use Nelbix\App\Import\ImportFile;
use Nelbix\App\Platform\Actor;
use Nelbix\App\Platform\FormKey;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Ledger\Side;

/** Entries by hand: who may post what, what waits for whom, what comes again and what is taken back. */
final class JournalTest extends ScreenCase
{
    private Actor $payables;
    private Actor $controller;

    protected function setUp(): void
    {
        parent::setUp();
        $this->controller = $this->clerk;
        $id = (int) $this->db()->fetchOne("SELECT id FROM app_user WHERE username = 'payables'");
        $this->payables = new Actor($this->clerk->companyId, 'USD', $id);
    }

    /**
     * @param array<string, mixed> $more
     *
     * @return array<string, mixed>
     */
    private static function raw(string $amount = '100.00', string $account = '6400', array $more = []): array
    {
        return [
            'day' => '2026-06-10',
            'text' => 'office rent',
            'lines' => [['account' => $account, 'debit' => $amount], ['account' => '6500', 'credit' => $amount]],
            ...$more,
        ];
    }

    /**
     * @param array<string, mixed> $raw
     */
    private function enter(Actor $actor, array $raw): PostedManual
    {
        return self::get(PostManualEntry::class)->post($actor, self::get(JournalReader::class)->read($actor, $raw));
    }

    private function version(int $id): int
    {
        return (int) $this->db()->fetchOne('SELECT version FROM manual_entry WHERE id = ?', [$id]);
    }

    private function decide(Actor $actor, int $id, string $why = ''): bool
    {
        return !self::get(DecideManualEntry::class)->accept($actor, $id, $this->version($id), $why)->waits;
    }

    public function testItIsReadAndPostedWithItsAnalysisAndTakenBackOnItsDay(): void
    {
        $posted = $this->enter($this->payables, self::raw('1200/3', more: ['reverses_on' => '2026-07-01']));
        self::assertSame([false, 'JE-26-00001'], [$posted->waits, $posted->number]);
        $entries = $this->db()->fetchAllNumeric(
            <<<'SQL'
            SELECT e.posting_date, SUM(GREATEST(l.base, 0)), e.reverses_id IS NULL
            FROM journal_entry e
            JOIN journal_line l ON l.entry_id = e.id
            WHERE e.company_id = ?
            GROUP BY e.id, e.posting_date, e.reverses_id
            ORDER BY e.id
            SQL
            ,
            [$this->clerk->companyId],
        );
        self::assertEquals([['2026-06-10', 40000, 1], ['2026-07-01', 40000, 0]], $entries);
    }

    public function testEverythingThatIsWrongIsSaidWithItsField(): void
    {
        self::assertSame(
            ['reverses_on', 'text', 'lines.0.account', 'lines.0.debit', 'lines.1.account'],
            self::refusedFields(
                fn () => $this->enter($this->payables, [
                    'day' => '2026-06-10',
                    'reverses_on' => '2026-06-10',
                    'lines' => [
                        ['account' => '2100', 'debit' => '1', 'credit' => '1'],
                        ['account' => '9', 'credit' => '1'],
                    ],
                ]),
            ),
        );
        self::assertSame(
            ['lines.0.debit'],
            self::refusedFields(
                fn () => $this->enter($this->payables, [
                    ...self::raw(),
                    'lines' => [['account' => '6400', 'debit' => '5']],
                ]),
            ),
        );
    }

    /** What waits is dropped by whoever wrote it or by an approver; a page that was loaded when it was a draft is no way around that. */
    public function testWhatWaitsIsDroppedByItsAuthorOrAnApprover(): void
    {
        $waiting = fn (): int => $this->enter($this->payables, self::raw('10000.01'))->id;
        $drop = fn (Actor $who, int $id): string => self::said(
            fn () => self::get(DecideManualEntry::class)->drop($who, $id, $this->version($id)),
        );
        $one = $waiting();
        self::assertStringContainsString(
            'dropped by whoever wrote it, or by an approver',
            $drop($this->controller, $one),
        );
        self::assertSame('waiting', $this->db()->fetchOne('SELECT state FROM manual_entry WHERE id = ?', [$one]));
        self::assertSame('done', $drop($this->payables, $one));
        self::assertSame('done', $drop($this->approver, $waiting()));
        $draft = self::get(KeepManualEntry::class)->keep($this->payables, self::raw(), null, 0);
        self::assertSame('done', $drop($this->controller, $draft), 'a draft is nobody’s in particular');
    }

    public function testAboveTheLimitSomebodyElseApprovesIt(): void
    {
        self::assertFalse($this->enter($this->payables, self::raw('10000.00'))->waits, 'at the limit');
        $entry = $this->enter($this->payables, self::raw('10000.01'));
        self::assertTrue($entry->waits);
        self::assertSame(1000000, $this->balance('6400'), 'what waits is not posted');
        self::assertSame([''], self::refusedFields(fn () => $this->decide($this->payables, $entry->id)));
        self::assertSame(
            [''],
            self::refusedFields(fn () => $this->decide($this->controller, $entry->id)),
            'no approver',
        );
        self::assertSame(
            [''],
            self::refusedFields(
                fn () => self::get(DecideManualEntry::class)->accept(
                    $this->approver,
                    $entry->id,
                    $this->version($entry->id) - 1,
                    '',
                ),
            ),
            'a page that is old',
        );
        self::assertTrue($this->decide($this->approver, $entry->id));
        self::assertSame(2000001, $this->balance('6400'));
        self::assertSame([''], self::refusedFields(fn () => $this->decide($this->approver, $entry->id)), 'twice');
    }

    public function testWhatIsSentBackIsMendedAndSentAgain(): void
    {
        $entry = $this->enter($this->payables, self::raw('20000.00'));
        $post = self::get(PostManualEntry::class);
        $decide = self::get(DecideManualEntry::class);
        self::assertSame(
            ['why'],
            self::refusedFields(fn () => $decide->sendBack($this->approver, $entry->id, $this->version($entry->id), '')),
        );
        $decide->sendBack($this->approver, $entry->id, $this->version($entry->id), 'which month?');
        $input = self::get(JournalReader::class)->read(
            $this->payables,
            self::raw('20000.00', more: ['text' => 'rent of May']),
        );
        $again = $post->post($this->payables, $input, $entry->id, $this->version($entry->id));
        self::assertSame([$entry->id, true], [$again->id, $again->waits]);
        self::assertTrue($this->decide($this->approver, $entry->id));
        self::assertSame(
            ['sent for approval', 'sent back', 'sent for approval', 'approved'],
            $this->db()->fetchFirstColumn("SELECT action FROM history WHERE subject = 'manual_entry' ORDER BY id"),
        );
    }

    public function testABypassNeedsTheWordOfAControllerWhicheverDoorItComesThrough(): void
    {
        $raw = self::raw('41.25', '1200', ['bypass' => 'yes', 'bypass_why' => 'I say so']);
        $entry = $this->enter($this->payables, $raw);
        self::assertTrue($entry->waits, 'the screen of a clerk');
        self::assertSame(0, $this->balance('1200'));
        self::assertSame([''], self::refusedFields(fn () => $this->decide($this->approver, $entry->id, 'fine')));
        self::assertSame(['why'], self::refusedFields(fn () => $this->decide($this->controller, $entry->id)));
        self::assertTrue($this->decide($this->controller, $entry->id, 'shop cash, cleared in July'));
        self::assertSame(4125, $this->balance('1200'));
        $csv =
            "entry,date,text,account,debit,credit,bypass\n1,2026-06-10,x,1200,1.00,,yes\n1,2026-06-10,x,6400,,1.00,yes\n";
        $file = self::get(ImportFile::class)->import($this->payables, 'journal', $csv);
        self::assertSame([1, []], [$file['created'], $file['errors']], 'a file of a clerk');
        self::assertSame(4125, $this->balance('1200'), 'it waits like what is typed');
        self::assertSame(
            ['bypass_why'],
            self::refusedFields(fn () => $this->enter($this->controller, [...$raw, 'bypass_why' => ''])),
        );
        self::assertFalse($this->enter($this->controller, $raw)->waits);
        self::assertSame(
            ['posted as a bypass entry' => 2],
            $this->db()->fetchAllKeyValue(
                "SELECT action, COUNT(*) FROM history WHERE subject = 'entry' AND company_id = ? GROUP BY action",
                [$this->clerk->companyId],
            ),
        );
        self::assertSame(
            [''],
            self::refusedFields(
                fn () => self::get(ReverseManualEntry::class)->reverse($this->payables, $this->lastEntry(), 'wrong'),
            ),
            'and so does its reversal',
        );
        self::get(ReverseManualEntry::class)->reverse($this->controller, $this->lastEntry(), 'wrong');
        self::assertSame(4125, $this->balance('1200'));
    }

    private function lastEntry(): int
    {
        return (int) $this->db()->fetchOne('SELECT MAX(id) FROM journal_entry WHERE company_id = ?', [
            $this->clerk->companyId,
        ]);
    }

    public function testAnEntryIsReversedOnceAndOnlyWhenItIsByHand(): void
    {
        $this->enter($this->payables, self::raw());
        $entry = $this->lastEntry();
        $reverse = self::get(ReverseManualEntry::class);
        self::assertSame(['why'], self::refusedFields(fn () => $reverse->reverse($this->payables, $entry, ' ')));
        self::assertSame(
            ['day'],
            self::refusedFields(fn () => $reverse->reverse($this->payables, $entry, 'x', Day::of('2026-06-09'))),
        );
        $reverse->reverse($this->payables, $entry, 'the wrong office');
        self::assertSame(0, $this->balance('6400'));
        self::assertSame([''], self::refusedFields(fn () => $reverse->reverse($this->payables, $entry, 'again')));
        $reversal = $this->lastEntry();
        self::assertCount(1, self::refusedFields(fn () => $reverse->reverse($this->payables, $reversal, 'x')));
        $this->invoice(Side::Payables, '5.00');
        $ofInvoice = (int) $this->db()->fetchOne("SELECT MAX(id) FROM journal_entry WHERE source_kind = 'document'");
        self::assertCount(1, self::refusedFields(fn () => $reverse->reverse($this->payables, $ofInvoice, 'x')));
    }

    public function testOneThatComesAgainIsMadeIntoDraftsAndPostsNothingByItself(): void
    {
        $reader = self::get(JournalReader::class);
        $again = self::get(RecurringEntries::class);
        $input = $reader->read(
            $this->payables,
            self::raw('50.00', more: ['day' => '2026-03-31', 'reverses_on' => '2026-04-01']),
        );
        self::assertSame(
            ['every'],
            self::refusedFields(fn () => $again->keep($this->payables, $input, ['every' => 'never'])),
        );
        $id = $again->keep($this->payables, $input, ['every' => 'month_end']);
        self::assertSame(3, $again->prepare($this->payables, Day::of(self::DAY)));
        self::assertSame(0, $again->prepare($this->payables, Day::of(self::DAY)), 'once a day');
        self::assertSame(
            ['2026-03-31', '2026-04-30', '2026-05-31'],
            $this->db()->fetchFirstColumn('SELECT day FROM manual_entry WHERE recurring_id = ? ORDER BY day', [$id]),
        );
        self::assertSame(0, $this->balance('6400'));
        $draft = (int) $this->db()->fetchOne('SELECT MAX(id) FROM manual_entry WHERE recurring_id = ?', [$id]);
        $form = $this->entities()->find(ManualEntry::class, $draft)->form ?? [];
        self::assertSame('1 Jun 2026', $form['reverses_on'] ?? '');
        $post = self::get(PostManualEntry::class);
        self::assertFalse(
            $post->post($this->payables, $reader->read($this->payables, $form), $draft, $this->version($draft))->waits,
        );
        $again->stop($this->payables, $id);
        self::assertSame(0, $again->prepare($this->payables, Day::of('2027-01-31')));
        self::assertSame([''], self::refusedFields(fn () => $again->stop($this->payables, $id)));
    }

    private function entities(): \Doctrine\ORM\EntityManagerInterface
    {
        return self::get(\Doctrine\ORM\EntityManagerInterface::class);
    }

    public function testByTheScreens(): void
    {
        $this->as('payables');
        $page = $this->post('/TEST/close/journal/new', '/TEST/close/journal/new', [
            'do' => 'draft',
            ...self::raw('12000.00'),
        ]);
        self::assertStringContainsString('Nothing was posted', $page->text());
        $id = (int) $this->db()->fetchOne('SELECT MAX(id) FROM manual_entry');
        $path = '/TEST/close/journal/'.$id;
        $this->browser->request('GET', $path);
        $token = $this->browser->getCrawler()->filter('input[name=_token]')->last()->attr('value');
        $paper = self::upload("%PDF-1.4\n%%EOF", 'lease.pdf', 'application/pdf');
        $this->browser->request('POST', $path.'/paper', ['_token' => $token], ['file' => $paper]);
        $page = $this->browser->followRedirect();
        self::assertStringContainsString('lease.pdf', $page->text());
        $this->browser->request('GET', (string) $page->selectLink('lease.pdf')->attr('href'));
        self::assertSame('application/pdf', $this->browser->getResponse()->headers->get('Content-Type'));
        $page = $this->post($path, $path, ['do' => 'post', ...self::raw('12000.00')]);
        self::assertStringContainsString('above the limit', $page->text());
        self::assertStringContainsString('1 manual entry waits for a decision', $this->waitingOf('approver'));
        $page = $this->post($path, $path.'/decide', ['do' => 'yes']);
        self::assertStringContainsString('Posted JE-26-00001', $page->text());
        $this->as('controller');
        $entry = $this->page('/TEST/close/entry/JE-26-00001');
        $this->browser->submit($entry->filter('form[data-main]')->form(['why' => 'entered twice']));
        self::assertStringContainsString('Reversed by JE-26-00002', $this->browser->followRedirect()->text());
        foreach (['open', 'posted', 'recurring'] as $show) {
            $this->page('/TEST/close/journal?show='.$show);
        }
        $this->browser->request('POST', '/TEST/close/journal/live', ['_token' => $token, ...self::raw('7.00')]);
        self::assertStringContainsString('7.00', (string) $this->browser->getResponse()->getContent());
    }

    private function waitingOf(string $role): string
    {
        $this->as($role);

        return $this->page('/TEST')->filter('main')->text();
    }

    /** A day like "." is another one when somebody approves it later: what is approved is what was seen. */
    public function testWhatIsApprovedIsDatedAsItWasSeen(): void
    {
        $entry = $this->enter($this->payables, self::raw('20000.00', more: ['day' => '.', 'reverses_on' => '+20']));
        $this->db()->executeStatement("UPDATE company SET books_day = '2026-07-20' WHERE id = ?", [
            $this->clerk->companyId,
        ]);
        $this->entities()->clear();
        self::assertTrue($this->decide($this->approver, $entry->id));
        self::assertSame(
            ['2026-06-15', '2026-07-05'],
            $this->db()->fetchFirstColumn('SELECT posting_date FROM journal_entry WHERE company_id = ? ORDER BY id', [
                $this->clerk->companyId,
            ]),
        );
    }

    public function testAFileAboveTheLimitWaitsUnlessWhoeverRunsTheMachineTakesItIn(): void
    {
        $csv =
            "entry,date,text,account,debit,credit\n1,2026-06-10,rent,6400,20000.00,\n1,2026-06-10,rent,6500,,20000.00\n";
        $import = self::get(ImportFile::class);
        self::assertSame(1, $import->import($this->controller, 'journal', $csv)['created']);
        self::assertSame(0, $this->balance('6400'));
        self::assertSame(
            1,
            $import->import($this->controller, 'journal', $csv, approved: true, again: true)['created'],
        );
        self::assertSame(2000000, $this->balance('6400'));
        // nor is it taken back by a clerk alone
        $entry = $this->lastEntry();
        $reverse = self::get(ReverseManualEntry::class);
        self::assertCount(1, self::refusedFields(fn () => $reverse->reverse($this->payables, $entry, 'alone')));
        $reverse->reverse($this->controller, $entry, 'the wrong month');
        self::assertSame(0, $this->balance('6400'));
    }

    public function testADoubleClickMakesOneDraftAndOneRecurringEntry(): void
    {
        $key = new FormKey('the-same-key', 'the same form');
        $keep = self::get(KeepManualEntry::class);
        $again = self::get(RecurringEntries::class);
        $input = self::get(JournalReader::class)->read($this->payables, self::raw());
        foreach ([1, 2] as $click) {
            $keep->keep($this->payables, self::raw(), null, 0, $key);
            $again->keep($this->payables, $input, ['every' => 'month'], $key);
        }
        self::assertSame(
            ['draft' => 1, 'recurring' => 1],
            array_map(
                'intval',
                $this->db()->fetchAllKeyValue('SELECT state, COUNT(*) FROM manual_entry GROUP BY state'),
            ),
        );
        self::assertSame(
            ['2026-06-10', 10000],
            array_values(
                $this->db()->fetchAssociative("SELECT day, amount FROM manual_entry WHERE state = 'draft'") ?: [],
            ),
            'a draft has its own day and amount',
        );
    }

    public function testWhatComesAgainIsTakenBackAsTheFirstTime(): void
    {
        $reader = self::get(JournalReader::class);
        $again = self::get(RecurringEntries::class);
        foreach (
            [['2026-04-15', '2026-04-20', '20 May 2026'], ['2026-04-15', '2026-05-01', '1 Jun 2026']] as [$day, $back, $next]
        ) {
            $id = $again->keep(
                $this->payables,
                $reader->read($this->payables, self::raw(more: ['day' => $day, 'reverses_on' => $back])),
                ['every' => 'month'],
            );
            $again->prepare($this->payables, Day::of('2026-05-31'));
            $draft = (int) $this->db()->fetchOne('SELECT MAX(id) FROM manual_entry WHERE recurring_id = ?', [$id]);
            self::assertSame(
                $next,
                ($this->entities()->find(ManualEntry::class, $draft)->form ?? [])['reverses_on'] ?? '',
            );
        }
    }

    public function testTwoWhoPostTheSameDraftMakeOneEntry(): void
    {
        $post = self::get(PostManualEntry::class);
        $id = self::get(KeepManualEntry::class)->keep($this->payables, self::raw(), null, 0);
        $version = $this->version($id);
        $input = self::get(JournalReader::class)->read($this->payables, self::raw());
        $post->post($this->payables, $input, $id, $version);
        self::assertSame([''], self::refusedFields(fn () => $post->post($this->controller, $input, $id, $version)));
        self::assertSame(10000, $this->balance('6400'));
    }
}
