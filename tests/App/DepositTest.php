<?php

declare(strict_types=1);

namespace Nelbix\Tests\App;

use Nelbix\App\Books\ReverseDocument;
use Nelbix\App\Close\TieOut\TieOutQuery;
use Nelbix\App\Money\Bounce;
use Nelbix\App\Money\MakeDeposit;
use Nelbix\App\Money\OnHandQuery;
use Nelbix\App\Money\UndoDeposit;
use Nelbix\App\Platform\Settings;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Ledger\AccountRole;

/** Checks and cash stand on money on hand until a slip takes them to the bank in one line. Source: rules.md, Journal entries. */
final class DepositTest extends ScreenCase
{
    protected function setUp(): void
    {
        parent::setUp();
        self::get(Settings::class)->keep($this->clerk->companyId, ['deposit_slips' => 'yes']);
    }

    private function receive(string $amount, string $method, string $reference, string $date = '.'): int
    {
        $this->postedOnBoard(
            'receipt',
            [
                'amount' => $amount,
                'method' => $method,
                'reference' => $reference,
                'date' => $date,
                'look_alike_reason' => 'another one',
            ],
            'receivables',
        );

        return (int) $this->db()->fetchOne('SELECT MAX(id) FROM document');
    }

    /** @return list<string> */
    private function keys(string $day = self::DAY): array
    {
        return array_column(self::get(OnHandQuery::class)->of($this->clerk->companyId, Day::of($day)), 'key');
    }

    /** @return array{int, int} what ledger and list say of money on hand, as of a day */
    private function tie(string $day): array
    {
        foreach (self::get(TieOutQuery::class)->of($this->clerk->companyId, Day::of($day)) as $row) {
            if (AccountRole::MoneyOnHand === $row['role']) {
                return [$row['tie']->ledger, $row['tie']->items];
            }
        }
        self::fail('money on hand is tied out');
    }

    /** What was picked, and the day as it was typed, stand there again; once. */
    public function testARefusedSlipKeepsWhatWasPicked(): void
    {
        $this->receive('300.00', 'check', '4711', '2026-06-11');
        $this->receive('200.00', 'check', '4712', '2026-06-11');
        $path = '/TEST/receivables/on-hand';
        [$first] = $this->keys();
        $page = $this->post($path, $path, ['receipts' => [$first, ['x']], 'date' => '31 June 2026', '_key' => 'a']);
        self::assertStringContainsString('31 June 2026', $page->filter('.said-refused')->text());
        self::assertSame([$first], $page->filter('input[name="receipts[]"][checked]')->extract(['value']));
        self::assertSame('31 June 2026', $page->filter('input[name=date]')->attr('value'));
        self::assertCount(0, $this->page($path)->filter('input[name="receipts[]"][checked]'));
    }

    public function testASlipTakesWhatIsPickedToTheBankInOneLine(): void
    {
        $this->receive('300.00', 'check', '4711', '2026-06-12');
        $this->receive('80.00', 'cash', 'counter');
        $this->receive('45.00', 'transfer', 'bank line');
        self::assertSame([38000, 4500], [$this->balance('1050'), $this->balance('1000')]);
        $page = $this->page('/TEST/receivables/on-hand');
        self::assertSame(2, $page->filter('input[name="receipts[]"]')->count(), 'a transfer is at the bank already');
        self::assertStringContainsString('holds the same', $page->filter('tfoot')->text());

        $list = '/TEST/receivables/on-hand';
        $panel = $this->post($list, $list.'/entry', ['receipts' => $this->keys()])->text();
        self::assertMatchesRegularExpression(
            '/1000\s*Bank 380.00.*1050\s*Money on hand 380.00/',
            $panel,
            'seen before it is posted',
        );
        $version = fn (): int => (int) $this->db()->fetchOne('SELECT SUM(version) FROM document');
        $before = $version();
        $slip = self::get(MakeDeposit::class)->deposit($this->clerk, $this->keys(), Day::of(self::DAY), null);
        self::assertSame(
            $before + 2,
            $version(),
            'whoever takes one back at another node meets a row that was written',
        );
        self::assertSame([0, 42500], [$this->balance('1050'), $this->balance('1000')]);
        self::assertSame(
            1,
            (int) $this->db()->fetchOne(
                <<<'SQL'
                SELECT COUNT(*)
                FROM journal_line l
                JOIN journal_entry e ON e.id = l.entry_id
                JOIN account a ON a.id = l.account_id
                WHERE e.source_kind = 'deposit' AND e.source_id = ? AND a.number = '1000'
                SQL
                ,
                [$slip],
            ),
        );
        // textbook tie-out: list and account agree on every day, also before the deposit
        self::assertSame([30000, 30000], $this->tie('2026-06-12'));
        self::assertSame([0, 0], $this->tie(self::DAY));
        self::assertSame('%PDF', substr($this->pdf("/TEST/receivables/on-hand/$slip/slip.pdf"), 0, 4));
        self::assertStringContainsString(
            'DS-26-00001',
            $this->page("/TEST/receivables/on-hand/$slip")
                ->filter('h1')
                ->text(),
        );
    }

    private function pdf(string $path): string
    {
        $this->browser->request('GET', $path);

        return (string) $this->browser->getResponse()->getContent();
    }

    public function testWhatIsNotPickedStaysAndNothingGoesTwice(): void
    {
        $this->receive('300.00', 'check', '4711');
        $this->receive('80.00', 'check', '4712');
        [$first, $second] = $this->keys();
        $deposit = self::get(MakeDeposit::class);
        $deposit->deposit($this->clerk, [$first], Day::of(self::DAY), null);
        self::assertSame([$second], $this->keys());
        self::assertSame(
            'What is on hand changed since this page was loaded; look at it as it stands now.',
            self::said(fn () => $deposit->deposit($this->clerk, [$first, $second], Day::of(self::DAY), null)),
        );
        self::assertSame(8000, $this->balance('1050'));
    }

    public function testADepositIsNotDatedBeforeItsChecksNorAheadOfTheBooks(): void
    {
        $this->receive('300.00', 'check', '4711');
        $deposit = self::get(MakeDeposit::class);
        foreach (['2026-06-14' => 'came on', '2026-06-16' => 'still to come'] as $day => $why) {
            self::assertStringContainsString(
                $why,
                self::said(fn () => $deposit->deposit($this->clerk, $this->keys(), Day::of($day), null)),
            );
        }
    }

    public function testAMistakenSlipIsUndoneAndItsReceiptCannotBeReversedMeanwhile(): void
    {
        $receipt = $this->receive('300.00', 'check', '4711');
        $slip = self::get(MakeDeposit::class)->deposit($this->clerk, $this->keys(), Day::of(self::DAY), null);
        self::assertStringContainsString(
            'is on deposit slip DS-26-00001',
            self::said(fn () => self::get(ReverseDocument::class)->reverse($this->clerk, $receipt, 'a mistake')),
        );
        self::assertStringContainsString(
            'Say why',
            self::said(fn () => self::get(UndoDeposit::class)->undo($this->clerk, $slip, ' ')),
        );
        self::get(UndoDeposit::class)->undo($this->clerk, $slip, 'other account');
        self::assertStringContainsString(
            'undone already',
            self::said(fn () => self::get(UndoDeposit::class)->undo($this->clerk, $slip, 'other account')),
        );
        self::assertSame([30000, 0], [$this->balance('1050'), $this->balance('1000')]);
        self::assertCount(1, $this->keys(), 'on hand again');
        self::get(ReverseDocument::class)->reverse($this->clerk, $receipt, 'a mistake');
        self::assertSame([0, 0], [$this->balance('1050'), $this->balance('1000')]);
        self::assertSame([], $this->keys());
        self::assertSame([0, 0], $this->tie(self::DAY));
    }

    public function testACheckThatBouncesLeavesTheBankInALineOfItsOwn(): void
    {
        $bounced = $this->receive('300.00', 'check', '4711', '2026-06-11');
        $this->receive('80.00', 'check', '4712', '2026-06-11');
        $slip = self::get(MakeDeposit::class)->deposit($this->clerk, $this->keys(), Day::of('2026-06-12'), null);
        $bounce = self::get(Bounce::class);
        self::assertStringContainsString(
            'went to the bank on 12 Jun 2026',
            self::said(fn () => $bounce->record($this->clerk, $bounced, Day::of('2026-06-11'), 'no funds', 0, false)),
        );
        $bounce->record($this->clerk, $bounced, Day::of('2026-06-14'), 'no funds', 0, false);
        self::assertSame([0, 8000, -8000], array_map($this->balance(...), ['1050', '1000', '1200']));
        foreach (['2026-06-11' => 38000, '2026-06-13' => 0, '2026-06-14' => 0] as $day => $held) {
            self::assertSame([$held, $held], $this->tie($day), $day);
        }
        self::assertStringContainsString(
            'the slip stands',
            self::said(fn () => self::get(UndoDeposit::class)->undo($this->clerk, $slip, 'all of it')),
        );
        self::assertSame([], $this->keys());
    }

    public function testACheckGivenBackBeforeItWasDeposited(): void
    {
        $receipt = $this->receive('300.00', 'check', '4711');
        self::get(Bounce::class)->record($this->clerk, $receipt, Day::of(self::DAY), 'unsigned', 0, false);
        self::assertSame([0, 0, 0], array_map($this->balance(...), ['1050', '1000', '1200']));
        self::assertSame([], $this->keys());
    }
}
