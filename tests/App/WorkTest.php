<?php

declare(strict_types=1);

namespace Nelbix\Tests\App;

use Nelbix\App\Bank\SkipChecks;
use Nelbix\App\Books\ChangePosted;
use Nelbix\App\Parties\PartyAccounts;
use Nelbix\App\Payables\ChangePayment;
use Nelbix\App\Payables\CriteriaReader;
use Nelbix\App\Payables\DecideProposal;
use Nelbix\App\Payables\MakeProposal;
use Nelbix\App\Payables\ProposalQuery;
use Nelbix\App\Payables\StartRun;
use Nelbix\App\Platform\Transaction;
use Nelbix\App\Work\JobState;
use Nelbix\App\Work\Worker;
use Nelbix\Core\Ledger\Side;
use Nelbix\Core\Refused;
use Symfony\Bundle\FrameworkBundle\Console\Application;
use Symfony\Component\Console\Tester\CommandTester;
use Symfony\Component\DomCrawler\Crawler;

/** The job table: slices that commit, what stops on the way, who sees it, and the page. */
final class WorkTest extends ScreenCase
{
    /** @var list<int> documents of the invoices that the run pays */
    private array $invoices = [];

    /** @return int an approved run of so many payments, ready to be posted; in the tests a slice is 20 */
    private function ready(int $payments): int
    {
        $this->db()->executeStatement("UPDATE party SET separate_payments = 1 WHERE company_id = ? AND code = 'V-1'", [
            $this->clerk->companyId,
        ]);
        for ($n = 0; $n < $payments; ++$n) {
            $this->invoices[] = $this->invoice(Side::Payables, '10.00', [
                'document_date' => '2026-04-01',
                'terms' => 'N30',
            ]);
        }

        return $this->printedRun();
    }

    /** @return array{string, int, string} state, done, what it said */
    private function job(int $id): array
    {
        $row = $this->db()->fetchAssociative('SELECT state, done, said FROM job WHERE id = ?', [$id]) ?: self::fail();

        return [(string) $row['state'], (int) $row['done'], (string) $row['said']];
    }

    public function testARunIsPostedInSlicesAndCannotBeStartedTwice(): void
    {
        $run = $this->ready(45);
        $job = self::get(StartRun::class)->start($this->clerk, $run);
        self::assertSame(['waiting', 0, ''], $this->job($job));
        self::assertSame(JobState::Running, self::get(Worker::class)->slice($job));
        self::assertSame(['running', 20, ''], $this->job($job));
        self::assertSame(
            [''],
            self::refusedFields(fn () => self::get(StartRun::class)->start($this->clerk, $run)),
            'it is under way',
        );
        self::assertSame(
            ['20', '45'],
            [
                (string) $this->db()->fetchOne(
                    "SELECT COUNT(*) FROM bank_check WHERE proposal_id = ? AND state = 'issued'",
                    [$run],
                ),
                (string) $this->db()->fetchOne('SELECT COUNT(*) FROM bank_check WHERE proposal_id = ?', [$run]),
            ],
        );
        self::assertTrue(self::get(Worker::class)->next());
        self::assertSame(JobState::Done, self::get(Worker::class)->slice($job));
        self::assertNull(self::get(Worker::class)->slice($job), 'it has ended');
        self::assertFalse(self::get(Worker::class)->next());
        self::assertSame(['done', 45, ''], $this->job($job));
        self::assertSame(
            ['posted', '0'],
            [
                $this->db()->fetchOne('SELECT state FROM proposal WHERE id = ?', [$run]),
                (string) $this->db()->fetchOne('SELECT COUNT(*) FROM open_item WHERE reserved_by_id IS NOT NULL'),
            ],
        );
    }

    /** What changes on the way stops the rest with the reason; mended, the rest is posted and nothing again. */
    public function testWhatStopsARunOnItsWay(): void
    {
        $run = $this->ready(25);
        $job = self::get(StartRun::class)->start($this->clerk, $run);
        self::get(Worker::class)->slice($job);
        $last = end($this->invoices) ?: self::fail();
        self::get(ChangePosted::class)->hold($this->clerk, $last, 'goods came back');
        self::assertSame(JobState::Failed, self::get(Worker::class)->slice($job));
        self::assertSame(['failed', 20], \array_slice($this->job($job), 0, 2));
        self::assertStringContainsString('is held: goods came back', $this->job($job)[2]);
        self::assertSame([''], self::refusedFields(fn () => $this->postRun($run)), 'not before it is released');
        self::get(ChangePosted::class)->release($this->clerk, $last);
        self::assertSame(5, $this->postRun($run));
        self::assertSame('25', (string) $this->db()->fetchOne("SELECT COUNT(*) FROM document WHERE kind = 'payment'"));
    }

    /** Numbers of checks written by hand need not be typed in the order of the payments. */
    public function testChecksByHandInAnyOrder(): void
    {
        $this->db()->executeStatement("UPDATE party SET separate_payments = 1 WHERE company_id = ? AND code = 'V-1'", [
            $this->clerk->companyId,
        ]);
        foreach (['11', '12'] as $amount) {
            $this->invoice(Side::Payables, $amount, ['document_date' => '2026-04-01', 'terms' => 'N30']);
        }
        ['criteria' => $criteria, 'bankAccountId' => $bank, 'method' => $method] = self::get(
            CriteriaReader::class,
        )->read($this->clerk, ['pay_date' => self::DAY]);
        $run = self::get(MakeProposal::class)->make($this->clerk, $criteria, $bank, $method);
        $numbers = array_map(
            'intval',
            $this->db()->fetchFirstColumn(
                'SELECT payment FROM proposal_payment WHERE proposal_id = ? ORDER BY payment',
                [$run],
            ),
        );
        foreach ($numbers as $k => $payment) {
            self::get(ChangePayment::class)->change($this->clerk, $run, $payment, [
                'pay_by' => 'hand',
                'reference' => (string) (1002 - $k),
            ]);
        }
        self::get(DecideProposal::class)->decide($this->approver, $run, true);
        self::assertSame(2, $this->postRun($run));
        self::assertSame(
            ['1001', '1002'],
            array_map(
                'strval',
                $this->db()->fetchFirstColumn("SELECT number FROM bank_check WHERE state = 'issued' ORDER BY number"),
            ),
        );
    }

    /** While the run was on its way somebody wrote the check of the same number: its payment gets another, and the rest is posted. */
    public function testANumberTakenMeanwhileIsTypedAnew(): void
    {
        $this->db()->executeStatement("UPDATE party SET separate_payments = 1 WHERE company_id = ? AND code = 'V-1'", [
            $this->clerk->companyId,
        ]);
        for ($n = 0; $n < 22; ++$n) {
            $this->invoice(Side::Payables, '10.00', ['document_date' => '2026-04-01', 'terms' => 'N30']);
        }
        ['criteria' => $criteria, 'bankAccountId' => $bank, 'method' => $method] = self::get(
            CriteriaReader::class,
        )->read($this->clerk, ['pay_date' => self::DAY]);
        $run = self::get(MakeProposal::class)->make($this->clerk, $criteria, $bank, $method);
        for ($n = 1; $n <= 22; ++$n) {
            self::get(ChangePayment::class)->change($this->clerk, $run, $n, [
                'pay_by' => 'hand',
                'reference' => (string) (1000 + $n),
            ]);
        }
        self::get(DecideProposal::class)->decide($this->approver, $run, true);
        $job = self::get(StartRun::class)->start($this->clerk, $run);
        self::get(Worker::class)->slice($job);
        // 1021 is torn out of the book for something else
        self::get(SkipChecks::class)->skip(
            $this->clerk,
            (int) $this->db()->fetchOne('SELECT id FROM check_book WHERE bank_account_id = ?', [$bank]),
            1021,
            'torn',
        );
        self::assertSame(JobState::Failed, self::get(Worker::class)->slice($job));
        self::assertStringContainsString('Check 1021 was used already', $this->job($job)[2]);
        foreach ([[1, ''], [21, '1023']] as [$payment, $reference]) {
            try {
                self::get(ChangePayment::class)->change($this->clerk, $run, $payment, ['reference' => $reference]);
            } catch (Refused $e) {
                self::assertSame(1, $payment);
                self::assertStringContainsString('is posted', $e->getMessage());
            }
        }
        self::assertSame(2, $this->postRun($run));
        self::assertSame(
            '22',
            (string) $this->db()->fetchOne("SELECT COUNT(*) FROM bank_check WHERE state = 'issued'"),
        );
    }

    public function testThePageShowsHowFarAndTheCommandGoesOn(): void
    {
        $run = $this->ready(45);
        $this->as('controller');
        $page = $this->browser->request('GET', '/TEST/payables/proposal/'.$run);
        $this->browser->submit($page->selectButton('Post run Ctrl ↵')->form());
        $page = $this->browser->followRedirect();
        self::assertStringContainsString(
            'Run '.$this->db()->fetchOne('SELECT number FROM proposal WHERE id = ?', [$run]).': 20 of 45 done',
            trim((string) preg_replace('/\s+/', ' ', $page->filter('.progress')->text())),
        );
        $list = $this->browser->request('GET', '/TEST/long-work');
        self::assertCount(1, $list->filter('progress'));
        $job = (int) $this->db()->fetchOne('SELECT id FROM job');
        $this->browser->request('GET', '/TEST/long-work/'.$job, [], [], ['HTTP_HX_REQUEST' => 'true']);
        self::assertFalse($this->browser->getResponse()->headers->has('HX-Refresh'));
        $tester = new CommandTester((new Application(self::$kernel ?? self::fail()))->find('nelbix:work'));
        $tester->execute(['--format' => 'json']);
        self::assertSame(2, json_decode($tester->getDisplay(), true)['slices']);
        $this->browser->request('GET', '/TEST/long-work/'.$job, [], [], ['HTTP_HX_REQUEST' => 'true']);
        self::assertTrue(
            $this->browser->getResponse()->headers->has('HX-Refresh'),
            'the page is loaded anew when it is through',
        );
        self::assertStringContainsString(
            'done',
            $this->browser->request('GET', '/TEST/long-work')->filter('tbody')->text(),
        );
        $this->as('receivables');
        self::assertCount(
            0,
            $this->browser->request('GET', '/TEST/long-work')->filter('tbody tr'),
            'payables are not theirs to see',
        );
        $this->browser->request('GET', '/TEST/long-work/'.$job);
        self::assertSame(404, $this->browser->getResponse()->getStatusCode());
    }

    /** However long a run is, its review reads each line a few times, not once for every payment. */
    public function testTheReviewReadsEachLineAFewTimesOnly(): void
    {
        $run = $this->ready(60);
        $reads = fn (): int => array_sum(
            array_map('intval', $this->db()->fetchAllKeyValue("SHOW SESSION STATUS LIKE 'Handler_read%'")),
        );
        $before = $reads();
        self::assertCount(60, self::get(ProposalQuery::class)->payments($run));
        self::assertLessThan(60 * 20, $reads() - $before);
    }

    /** A worker stays for an hour: what it read for one slice is read anew for the next. */
    public function testTheWorkerReadsAnewWhatOthersChanged(): void
    {
        $run = $this->ready(1);
        $job = self::get(StartRun::class)->start($this->clerk, $run);
        $vendor = (int) $this->db()->fetchOne("SELECT id FROM party WHERE code = 'V-1'");
        $usual = self::get(PartyAccounts::class)->control($this->clerk->companyId, Side::Payables, $vendor);
        $this->db()->executeStatement(
            <<<SQL
            INSERT INTO account (company_id, number, name, type, role, currency, retired)
            SELECT company_id, '2101', 'Payables to yards', type, role, currency, 0
            FROM account
            WHERE id = ?
            SQL
            ,
            [$usual],
        );
        $own = (int) $this->db()->lastInsertId();
        $this->db()->executeStatement('UPDATE party SET control_account_id = ? WHERE id = ?', [$own, $vendor]);
        (new CommandTester((new Application(self::$kernel ?? self::fail()))->find('nelbix:work')))->execute([]);
        self::assertSame('done', $this->job($job)[0]);
        self::assertSame($own, (int) $this->db()->fetchOne("SELECT account_id FROM open_item WHERE kind = 'payment'"));
    }

    /** In the tests more than 30 lines are long: checked and taken over by the worker, whole or not at all. */
    public function testALongFileIsCheckedAndTakenOverByTheWorker(): void
    {
        $csv =
            "code,name\n".
            implode('', array_map(static fn (int $n): string => \sprintf("L-%03d,Long %d\n", $n, $n), range(1, 120)));
        $upload = fn (string $bytes): Crawler => $this->post(
            '/TEST/import',
            '/TEST/import/check',
            ['kind' => 'vendors'],
            ['file' => self::upload($bytes, 'vendors.csv')],
        );
        $vendors = fn (): int => (int) $this->db()->fetchOne("SELECT COUNT(*) FROM party WHERE code LIKE 'L-%'");
        self::assertStringContainsString(
            'Check of vendors: 0 of 120, waits for its turn',
            trim((string) preg_replace('/\s+/', ' ', $upload($csv)->filter('.progress')->text())),
        );
        $id = (int) $this->db()->fetchOne('SELECT MAX(id) FROM stored_file');
        self::assertTrue(self::get(Worker::class)->next());
        self::assertSame(
            ['done', 0],
            [$this->db()->fetchOne('SELECT state FROM job WHERE subject_id = ?', [$id]), $vendors()],
            'a check keeps nothing',
        );
        self::assertStringContainsString(
            '120 vendors would be made',
            $this->page('/TEST/import/file/'.$id)
                ->filter('main')
                ->text(),
        );
        $this->post('/TEST/import/file/'.$id, '/TEST/import/take', ['kind' => 'vendors', 'file' => $id]);
        self::assertTrue(self::get(Worker::class)->next());
        self::assertSame(120, $vendors());
        self::assertStringContainsString(
            '120 vendors were made',
            $this->page('/TEST/import/file/'.$id)
                ->filter('main')
                ->text(),
        );
        self::assertStringContainsString(
            'taken over already',
            $this->post('/TEST/import', '/TEST/import/take', ['kind' => 'vendors', 'file' => $id])->text(),
        );

        $upload(
            str_replace(['L-', 'L-060,Long 60'], ['M-', 'L-060,Long 60'], str_replace('L-060,Long 60', 'L-060,', $csv)),
        );
        self::get(Worker::class)->next();
        $bad = (int) $this->db()->fetchOne('SELECT MAX(subject_id) FROM job');
        $page = $this->browser->request('GET', '/TEST/import/file/'.$bad);
        self::assertSame(422, $this->browser->getResponse()->getStatusCode());
        self::assertSame(
            ['61', 'M-060,'],
            [$page->filter('tbody td')->eq(0)->text(), $page->filter('tbody td')->eq(3)->text()],
            'the line is shown',
        );
        self::assertSame(
            0,
            (int) $this->db()->fetchOne("SELECT COUNT(*) FROM party WHERE code LIKE 'M-%'"),
            'none of it is kept',
        );
        $this->as('payables');
        $this->browser->request('GET', '/TEST/import/file/'.$id);
        self::assertSame(404, $this->browser->getResponse()->getStatusCode(), 'it is another clerk’s');
        self::assertCount(0, $this->page('/TEST/long-work')->filter('tbody tr'));
    }

    /** What fails within a use case and is gone on from takes back only its own. */
    public function testAnAttemptThatFailsTakesBackOnlyItsOwn(): void
    {
        $set = fn (string $name): int|string => $this->db()->executeStatement(
            "INSERT INTO setting (company_id, name, value) VALUES (?, ?, 'x')",
            [$this->clerk->companyId, $name],
        );
        $transaction = self::get(Transaction::class);
        $transaction->run(static function () use ($transaction, $set): void {
            $set('work_before');
            try {
                $transaction->attempt(static function () use ($set): never {
                    $set('work_within');
                    throw new \RuntimeException('no');
                });
            } catch (\RuntimeException) {
            }
            $set('work_after');
        });
        self::assertSame(
            ['work_after', 'work_before'],
            $this->db()->fetchFirstColumn("SELECT name FROM setting WHERE name LIKE 'work%' ORDER BY name"),
        );
    }
}
