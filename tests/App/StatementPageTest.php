<?php

declare(strict_types=1);

namespace Nelbix\Tests\App;

use Nelbix\App\Banking\Statement\Choice;
use Nelbix\App\Banking\Statement\PlaceLine;
use Nelbix\App\Banking\Statement\SaveRule;
use Nelbix\App\Books\PlacementRequest;
use Nelbix\App\Platform\Settings;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Ledger\Side;
use Symfony\Component\DomCrawler\Crawler;

/** The statement as a page: what stands in a row is what is posted, and what a role does not enter is refused. */
final class StatementPageTest extends StatementCase
{
    private function at(string $path = ''): string
    {
        return '/TEST/bank/'.$this->bank()->id.'/statement'.$path;
    }

    /**
     * Posts lines with what stands in their rows.
     *
     * @param list<int> $amounts
     * @param array<string, mixed> $more
     */
    private function posted(array $amounts, array $more = [], ?Crawler $page = null): Crawler
    {
        $page ??= $this->page($this->at());
        $choice = $go = [];
        foreach ($amounts as $amount) {
            $id = $this->lineOf($amount);
            $go[] = (string) $id;
            $choice[$id] = (string) $page
                ->filter("select[name='choice[$id]'] option")
                ->first()
                ->attr('value');
        }
        $key = (string) $page->filter('#statement input[name=_key]')->attr('value');

        return $this->post($this->at(), $this->at(), ['_key' => $key, 'go' => $go, 'choice' => $choice, ...$more]);
    }

    public function testSureFindsAreMarkedAndPostedTogether(): void
    {
        $this->money(Side::Receivables, 50_000, date: '2026-06-12');
        $item = $this->itemOf($this->invoice(Side::Receivables, '980.00'));
        $number = (string) $this->db()->fetchOne('SELECT number FROM open_item WHERE id = ?', [$item]);
        $this->take(self::statement([self::line(50_000, 'x'), self::line(98_000, $number), self::line(77, 'unknown')]));
        $page = $this->page($this->at());
        self::assertCount(2, $page->filter('input[name="go[]"][checked]'));
        $before = $this->balance('1000');
        $said = $this->posted([50_000, 98_000], [], $page);
        self::assertStringContainsString('2 lines placed.', $said->text());
        self::assertSame([$before + 98_000, 0], [$this->balance('1000'), $this->open($item)]);
        // the page of before, an hour later
        $late = $this->posted([98_000], [], $page);
        self::assertStringContainsString('was posted once already, with something else in it', $late->text());
        $other = $this->posted([98_000], ['_key' => 'of another page'], $page);
        self::assertStringContainsString('has its place already', $other->text());
        self::assertSame($before + 98_000, $this->balance('1000'));
        self::assertSame(77, (int) $this->db()->fetchOne('SELECT SUM(waiting) FROM statement_line'));
    }

    /** What one line is refused for holds none of the others up, and stands in its row. */
    public function testARefusalStandsInItsRow(): void
    {
        $this->money(Side::Receivables, 50_000, date: '2026-06-12');
        $this->money(Side::Receivables, 70_000, date: '2026-06-12');
        $number = (string) $this->db()->fetchOne('SELECT MAX(number) FROM document');
        $this->take(self::statement([self::line(50_000, 'x'), self::line(69_000, $number)]));
        $page = $this->posted([50_000, 69_000]);
        self::assertStringContainsString('1 line not placed', $page->filter('.said-refused')->text());
        self::assertStringContainsString('say which account takes that', $page->filter('tr .wrong')->text());
        $id = $this->lineOf(69_000);
        self::assertStringContainsString(
            '1 line placed.',
            $this->posted([69_000], ['difference' => [$id => '6800']])->text(),
        );
        self::assertSame(1_000, $this->balance('6800'));
    }

    public function testThePanelShowsWhatIsBooked(): void
    {
        $this->take(self::statement([self::line(-10_800, 'STAMPS')]));
        $id = $this->lineOf(-10_800);
        $found = $this->browser->request('GET', $this->at('/search/'.$id.'?q=6400'));
        $token = (string) $found->filter('option')->first()->attr('value');
        $panel = $this->post($this->at(), $this->at('/live'), ['go' => [(string) $id], 'choice' => [$id => $token]]);
        self::assertStringContainsString('6400', $panel->text());
        self::assertStringContainsString('108.00', $panel->text());
        self::assertSame(0, $this->balance('6400'), 'looking posts nothing');
        $this->post($this->at(), $this->at(), ['go' => [(string) $id], 'choice' => [$id => $token]]);
        self::assertSame(10_800, $this->balance('6400'));
    }

    /** @return list<string> what is found by words typed into the row of the line over an amount */
    private function search(int $amount, string $q): array
    {
        $page = $this->browser->request('GET', $this->at('/search/'.$this->lineOf($amount).'?q='.urlencode($q)));

        return $page->filter('option')->each(static fn (Crawler $o): string => $o->text());
    }

    public function testTypingSearchesItemsPartiesAccountsAndRecords(): void
    {
        $this->invoice(Side::Receivables, '300.00');
        $this->invoice(Side::Receivables, '200.00');
        $numbers = $this->db()->fetchFirstColumn("SELECT number FROM open_item WHERE side = 'receivables' ORDER BY id");
        $this->money(Side::Receivables, 4_400, date: '2026-01-05');
        $this->take(self::statement([self::line(50_000, 'x'), self::line(-900, 'y')]));
        self::assertStringContainsString(
            'Gannet Sailing School, '.$numbers[0].', '.$numbers[1],
            $this->search(50_000, implode(' ', $numbers))[0],
        );
        self::assertContains('Gannet Sailing School, unapplied', $this->search(50_000, 'gann'));
        self::assertContains('account 4600 Interest received', $this->search(50_000, '4600'));
        self::assertStringContainsString('44.00', implode($this->search(50_000, 'RC-26')));
        self::assertSame(['unidentified'], $this->search(50_000, '?'));
        self::assertContains('Fenwick Timber, unapplied', $this->search(-900, 'fenw'));
        self::assertSame(['Nothing is found by these words.'], $this->search(-900, '?'));
        // who does not enter payables finds accounts, and no vendor
        $this->as('receivables');
        self::assertNotContains('Fenwick Timber, unapplied', $this->search(-900, 'fenw'));
    }

    /** What the page of somebody else would send, sent by a role that does not enter that side. */
    public function testARoleThatDoesNotEnterTheSideIsRefused(): void
    {
        $item = $this->itemOf($this->invoice(Side::Receivables, '980.00'));
        $number = (string) $this->db()->fetchOne('SELECT number FROM open_item WHERE id = ?', [$item]);
        $this->take(self::statement([self::line(98_000, $number)]));
        $page = $this->page($this->at());
        $this->as('payables');
        self::assertStringContainsString(
            'Your role does not enter receivables',
            $this->posted([98_000], [], $page)->text(),
        );
        self::assertSame(98_000, $this->open($item));
        $this->as('receivables');
        self::assertStringContainsString('1 line placed', $this->posted([98_000])->text());
    }

    public function testARuleFromALineFindsTheNextAndCountsWhatItWasRightAbout(): void
    {
        $this->take(
            self::statement([
                self::line(-1_850, 'ACCOUNT SERVICE FEE 2026-05'),
                self::line(-1_900, 'ACCOUNT SERVICE FEE 2026-06'),
            ]),
        );
        $line = $this->lineOf(-1_850);
        $page = $this->page('/TEST/bank/rules/new?line='.$line);
        self::assertSame('ACCOUNT, SERVICE, FEE', self::value($page->filter('#rule')->form(), 'words'));
        $sent = [
            'words' => 'service, fee',
            'direction' => 'out',
            'line' => (string) $line,
            'lines' => [['account' => '6800']],
        ];
        self::assertStringContainsString(
            'fits 2 of the latest 2 lines',
            $this->post('/TEST/bank/rules/new', '/TEST/bank/rules/try', $sent)->text(),
        );
        self::assertStringContainsString(
            '6800',
            $this->post('/TEST/bank/rules/new', '/TEST/bank/rules', $sent)->filter('tr[data-line]')->text(),
        );
        self::assertStringContainsString('1 line placed', $this->posted([-1_850])->text());
        self::assertSame(1_850, $this->balance('6800'));
        $other = $this->browser->request('GET', $this->at('/search/'.$this->lineOf(-1_900).'?q=6400'));
        $this->posted(
            [-1_900],
            ['choice' => [$this->lineOf(-1_900) => (string) $other->filter('option')->first()->attr('value')]],
        );
        self::assertStringContainsString('1 of 2', $this->page('/TEST/bank/rules')->filter('table')->text());
    }

    public function testARuleIsRefusedWithEveryProblemAndSplitsToTheCent(): void
    {
        $said = $this->post('/TEST/bank/rules/new', '/TEST/bank/rules', [
            'words' => 'ab',
            'least' => '10',
            'most' => '5',
            'lines' => [['account' => '2100', 'percent' => '50'], ['account' => '6400', 'percent' => '0']],
        ])
            ->filter('.said-refused')
            ->text();
        foreach (['three letters at least', 'below the lower one', 'control account', 'above 0, up to 100'] as $part) {
            self::assertStringContainsString($part, $said);
        }
        self::get(SaveRule::class)->save(
            $this->clerk,
            [
                'words' => 'power',
                'lines' => [['account' => '6100', 'percent' => '66.667'], ['account' => '6000', 'percent' => '33.333']],
            ],
            null,
        );
        $this->take(self::statement([self::line(-10_001, 'POWER COMPANY')]));
        self::get(PlaceLine::class)->place($this->clerk, $this->lineOf(-10_001), $this->options(-10_001)[0]->choice);
        self::assertSame(
            [6_667, 3_334, -10_001],
            [$this->balance('6100'), $this->balance('6000'), $this->balance('1000')],
        );
    }

    /** Money that came for a line is posted on the board, with all that the board can, and the line is joined with it at once. */
    public function testALineIsPlacedOnTheBoard(): void
    {
        $item = $this->itemOf($this->invoice(Side::Receivables, '1000.00', ['terms' => 'N30']));
        $this->take(self::statement([self::line(95_000, 'part')]));
        $line = $this->lineOf(95_000);
        $href = (string) $this->page('/TEST/bank/line/'.$line)
            ->filter('a.btn')
            ->first()
            ->attr('href');
        $form = $this->page($href)->filter('#receipt')->form();
        self::assertSame((string) $line, self::value($form, 'line'));
        $sent = [...$form->getPhpValues(), 'party' => 'C-1', 'placed' => [$item => '950']];
        $said = $this->post('/TEST/receivables/receipt', '/TEST/receivables/receipt', $sent);
        self::assertStringContainsString('Posted RC-26', $said->filter('.said-done')->text());
        self::assertSame([0, 5_000, 95_000], [$this->waiting($line), $this->open($item), $this->balance('1000')]);
        // and not twice, from a page that was opened before
        $sent['_key'] = 'another page';
        $sent['look_alike_reason'] = 'another one';
        $again = $this->post(
            '/TEST/receivables/receipt',
            '/TEST/receivables/receipt',
            ['placed' => [$item => '0']] + $sent,
        );
        self::assertStringContainsString('has its place already', $again->text());
        self::assertSame(95_000, $this->balance('1000'));
    }

    /** Both legs of a transfer meet in one entry. */
    public function testATransferBetweenOwnAccounts(): void
    {
        $this->db()->executeStatement("UPDATE account SET role = 'bank' WHERE number = '1450' AND company_id = ?", [
            $this->clerk->companyId,
        ]);
        $account = (int) $this->db()->fetchOne("SELECT id FROM account WHERE number = '1450' AND company_id = ?", [
            $this->clerk->companyId,
        ]);
        $this->db()->insert('bank_account', [
            'company_id' => $this->clerk->companyId,
            'account_id' => $account,
            'code' => '1450',
            'name' => 'Savings',
            'currency' => 'USD',
            'iban' => 'DK5000400440116243',
        ]);
        $savings = (int) $this->db()->lastInsertId();
        $this->take(self::statement([self::line(-60_000, 'to savings', ['account' => 'DK50 0040 0440 1162 43'])]));
        [$options, $sure] = $this->found(-60_000);
        self::assertTrue($sure);
        self::assertSame('transfer to Savings', $options[0]->label);
        self::get(PlaceLine::class)->place($this->clerk, $this->lineOf(-60_000), $options[0]->choice);
        self::get(\Nelbix\App\Banking\Statement\TakeStatement::class)->take(
            $this->clerk,
            $savings,
            self::statement([self::line(60_000, 'from Harbor Trust')]),
            'hand',
            'x',
        );
        $page = $this->page('/TEST/bank/'.$savings.'/statement');
        self::assertCount(1, $page->filter('input[name="go[]"][checked]'));
        self::assertSame([-60_000, 60_000], [$this->balance('1000'), $this->balance('1450')]);
    }

    public function testAPartOfALineWaitsOn(): void
    {
        $this->take(self::statement([self::line(-10_000, 'two things')]));
        $line = $this->lineOf(-10_000);
        $page = '/TEST/bank/line/'.$line;
        $row = ['account' => '6400', 'amount' => '60'];
        self::assertStringContainsString('the rest waits', $this->post($page, $page, ['lines' => [$row]])->text());
        self::assertSame(-4_000, $this->waiting($line));
        self::assertStringContainsString(
            'between nothing and what is left',
            $this->post($page, $page, ['lines' => [$row]])->text(),
        );
        $said = $this->post($page, $page, ['lines' => [['account' => '9999', 'amount' => '40']]]);
        self::assertStringContainsString('There is no account “9999”', $said->filter('.said-refused')->text());
        self::assertStringContainsString(
            'has its place',
            $this->post($page, $page, ['lines' => [['account' => '6500']]])->text(),
        );
        self::assertSame([6_000, 4_000], [$this->balance('6400'), $this->balance('6500')]);
        self::assertStringContainsString('Say why', $this->post($page, $page.'/undo', [])->text());
        self::assertStringContainsString(
            '2 records are reversed',
            $this->post($page, $page.'/undo', ['reason' => 'wrong'])->text(),
        );
        self::assertSame([0, 0, -10_000], [$this->balance('6400'), $this->balance('6500'), $this->waiting($line)]);
    }

    /** A part clicked twice is placed once, and “the rest” is the rest that the page showed. */
    public function testAPartIsPlacedOnceAndTheRestIsWhatWasSeen(): void
    {
        $this->take(self::statement([self::line(-10_000, 'two things')]));
        $line = $this->lineOf(-10_000);
        $page = '/TEST/bank/line/'.$line;
        $form = $this->page($page)->filter('#by-hand');
        $sent = static fn (string $field): string => (string) $form->filter("input[name=$field]")->attr('value');
        $seen = ['_key' => $sent('_key'), 'waiting' => $sent('waiting')];
        $part = [...$seen, 'lines' => [['account' => '6400', 'amount' => '40']]];
        $this->post($page, $page, $part);
        $this->post($page, $page, $part);
        self::assertSame([4_000, -6_000], [$this->balance('6400'), $this->waiting($line)]);
        $rest = [...$seen, '_key' => 'of another page', 'lines' => [['account' => '6500', 'amount' => '']]];
        self::assertStringContainsString('between nothing and what is left', $this->post($page, $page, $rest)->text());
        self::assertSame([0, -6_000], [$this->balance('6500'), $this->waiting($line)]);
    }

    public function testNumbersThatNoPageOfOursHoldsAreNone(): void
    {
        $token = '{"k":"items","a":5,"s":"payables","p":1,"i":[[1,5,-9223372036854775808,0]]}';
        self::assertSame([[1, 5, 0, 0]], Choice::of($token)->items);
    }

    /** What a receipt was posted for is taken back by who enters receivables only. */
    public function testUndoNeedsTheSideToo(): void
    {
        $item = $this->itemOf($this->invoice(Side::Receivables, '980.00'));
        $number = (string) $this->db()->fetchOne('SELECT number FROM open_item WHERE id = ?', [$item]);
        $this->take(self::statement([self::line(98_000, $number)]));
        $this->posted([98_000]);
        $page = '/TEST/bank/line/'.$this->lineOf(98_000);
        $this->as('payables');
        self::assertStringContainsString(
            'does not enter receivables',
            $this->post($page, $page.'/undo', ['reason' => 'x'])->text(),
        );
        self::assertSame(0, $this->open($item));
        $this->as('receivables');
        $this->post($page, $page.'/undo', ['reason' => 'x']);
        self::assertSame(98_000, $this->open($item));
    }

    /** A receipt by hand is there: posting it again from the statement is asked about, and answered in the row. */
    public function testAReceiptThatIsThereIsNotBookedAgainUnseen(): void
    {
        $item = $this->itemOf($this->invoice(Side::Receivables, '500.00', ['terms' => 'N30']));
        $this->money(Side::Receivables, 50_000, [new PlacementRequest($item, 50_000)], date: '2026-06-12');
        $this->take(self::statement([self::line(50_000, 'x')]));
        $id = $this->lineOf(50_000);
        $found = $this->browser->request('GET', $this->at('/search/'.$id.'?q=gann'));
        $token = (string) $found
            ->filter('option')
            ->reduce(static fn (Crawler $o): bool => str_contains($o->text(), 'unapplied'))
            ->attr('value');
        $page = $this->posted([50_000], ['choice' => [$id => $token]]);
        self::assertStringContainsString('It looks like RC-26', $page->filter('tr .wrong')->text());
        self::assertSame(50_000, $this->balance('1000'));
        $this->posted([50_000], ['choice' => [$id => $token], 'why' => [$id => 'they paid twice'], '_key' => 'k']);
        self::assertSame(100_000, $this->balance('1000'));
    }

    /** A check that nobody cashed is stale from the day of the setting on, until a statement shows it. */
    public function testAStaleCheckIsListedUntilTheBankShowsIt(): void
    {
        $this->invoice(Side::Payables, '300.00', ['document_date' => '2026-05-01']);
        $this->postRun($this->printedRun());
        $check = $this->db()->fetchAssociative("SELECT * FROM bank_check WHERE state = 'issued'") ?: self::fail();
        $age = 20;
        $this->db()->update(
            'bank_check',
            [
                'check_date' => Day::of(self::DAY)
                    ->plusDays(-$age)
                    ->iso(),
            ],
            ['id' => $check['id']],
        );
        $stale = function (int $after): string {
            self::get(Settings::class)->keep($this->clerk->companyId, ['stale_check_days' => (string) $after]);

            return $this->page('/TEST/bank/stale')->filter('main')->text().
                $this->page('/TEST')->filter('main')->text();
        };
        self::assertStringNotContainsString('is stale', $stale($age + 1));
        $shown = $stale($age);
        self::assertStringContainsString('1 check is stale 300.00', $shown);
        self::assertStringContainsString((string) $check['number'], $shown);
        $this->take(self::statement([self::line(-30_000, 'CHECK', ['check' => (string) $check['number']])]));
        $this->posted([-30_000]);
        self::assertStringNotContainsString('is stale', $stale($age));
    }
}
