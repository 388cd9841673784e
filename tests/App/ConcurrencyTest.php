<?php

declare(strict_types=1);

namespace Nelbix\Tests\App;

use Nelbix\App\Payables\CriteriaReader;
use Nelbix\App\Payables\DecideProposal;
use Nelbix\App\Payables\MakeProposal;
use Nelbix\App\Payables\StartRun;
use Nelbix\Core\Ledger\Side;
use Symfony\Component\Process\Process;

/** Two processes at once, on committed data: one success and one refusal, no duplicate, no gap. */
final class ConcurrencyTest extends CommittedCase
{
    public function testTheSameReceiptPlacement(): void
    {
        $item = $this->itemOf($this->invoice(Side::Receivables, '1000.00'));
        $party = (int) $this->db()->fetchOne("SELECT id FROM party WHERE company_id = ? AND code = 'C-1'", [
            $this->clerk->companyId,
        ]);
        $bank = (int) $this->db()->fetchOne('SELECT id FROM bank_account WHERE company_id = ?', [
            $this->clerk->companyId,
        ]);
        for ($round = 0; $round < 3; ++$round) {
            $item = $this->itemOf($this->invoice(Side::Receivables, '1000.00'));
            [$done, $refused] = $this->together(
                'receive',
                [$party, $bank, $item, 100000],
                [$party, $bank, $item, 100000],
            );
            self::assertSame('done', $done);
            self::assertStringStartsWith('refused: CI-26-', $refused);
            self::assertSame(0, $this->open($item));
        }
        self::assertSame(
            3,
            (int) $this->db()->fetchOne("SELECT COUNT(*) FROM document WHERE company_id = ? AND kind = 'receipt'", [
                $this->clerk->companyId,
            ]),
        );
        self::assertSame(
            ['RC-26-00001', 'RC-26-00002', 'RC-26-00003'],
            $this->db()->fetchFirstColumn(
                "SELECT number FROM document WHERE company_id = ? AND kind = 'receipt' ORDER BY number",
                [$this->clerk->companyId],
            ),
        );
    }

    /** Two clerks set the same credit off against two invoices: it is used once. */
    public function testTheSameCreditSetOffTwice(): void
    {
        $credit = $this->itemOf($this->invoice(Side::Receivables, '100.00', ['kind' => 'credit_note']));
        $first = $this->itemOf($this->invoice(Side::Receivables, '100.00'));
        $second = $this->itemOf($this->invoice(Side::Receivables, '100.00'));
        [$done, $refused] = $this->together('settle', [$credit, $first, 10000], [$credit, $second, 10000]);
        self::assertSame('done', $done);
        self::assertStringStartsWith('refused: ', $refused);
        self::assertSame([0, 10000], [$this->open($credit), $this->open($first) + $this->open($second)]);
    }

    public function testChecksOfTwoRunsFromOneAccount(): void
    {
        $runs = [];
        foreach ([100, 200] as $amount) {
            $this->invoice(Side::Payables, $amount.'.00', ['document_date' => '2026-04-01']);
            ['criteria' => $criteria, 'bankAccountId' => $bank, 'method' => $method] = self::get(
                CriteriaReader::class,
            )->read($this->clerk, ['pay_date' => self::DAY]);
            $runs[] = $id = self::get(MakeProposal::class)->make($this->clerk, $criteria, $bank, $method);
            self::get(DecideProposal::class)->decide($this->approver, $id, true);
        }
        $book = (int) $this->db()->fetchOne(
            'SELECT c.id FROM check_book c JOIN bank_account b ON b.id = c.bank_account_id WHERE b.company_id = ?',
            [$this->clerk->companyId],
        );
        [$done, $refused] = $this->together('print', [$runs[0], $book, 1001], [$runs[1], $book, 1001]);
        self::assertSame('done', $done);
        self::assertStringStartsWith('refused: The next number of Checks is 1002', $refused);
        self::assertSame(
            [1001],
            array_map(
                'intval',
                $this->db()->fetchFirstColumn('SELECT number FROM bank_check WHERE check_book_id = ?', [$book]),
            ),
        );
    }

    public function testTwoProposalsOverTheSameItems(): void
    {
        for ($n = 0; $n < 20; ++$n) {
            $this->invoice(Side::Payables, '10.00', ['document_date' => '2026-04-01', 'terms' => 'N30']);
        }
        [$done, $refused] = $this->together('propose', [$this->bank()], [$this->bank()]);
        self::assertSame('done', $done);
        self::assertMatchesRegularExpression(
            '/refused: (Nothing falls|.*reserved by somebody else just now)/',
            $refused,
        );
        self::assertSame(
            [1, 20],
            [
                (int) $this->db()->fetchOne('SELECT COUNT(*) FROM proposal WHERE company_id = ?', [
                    $this->clerk->companyId,
                ]),
                (int) $this->db()->fetchOne(
                    'SELECT COUNT(*) FROM open_item WHERE company_id = ? AND reserved_by_id IS NOT NULL',
                    [$this->clerk->companyId],
                ),
            ],
        );
    }

    public function testTheSameRunPostedTwiceAtOnce(): void
    {
        $run = $this->ready(15);
        $said = $this->together('post', [$run], [$run]);
        self::assertSame("posting\ndone", $said[0]);
        self::assertMatchesRegularExpression(
            '/refused: (Proposal .* is (being )?posted|Run .* is under way already)/',
            $said[1],
        );
        self::assertSame(
            15,
            (int) $this->db()->fetchOne("SELECT COUNT(*) FROM document WHERE company_id = ? AND kind = 'payment'", [
                $this->clerk->companyId,
            ]),
        );
    }

    public function testTheSameCheckVoidedTwiceWhileAnotherRunIsPosted(): void
    {
        $first = $this->ready(2);
        $this->postRun($first);
        $run = $this->ready(10);
        $book = (int) $this->db()->fetchOne('SELECT id FROM check_book WHERE bank_account_id = ?', [$this->bank()]);
        $post = new Process(
            [
                \PHP_BINARY,
                __DIR__.'/concurrent.php',
                'post',
                (string) $this->clerk->companyId,
                (string) $this->clerk->userId,
                (string) (microtime(true) + 1.2),
                (string) $run,
            ],
            null,
            ['APP_ENV' => 'test'],
        );
        $post->start();
        [$done, $refused] = $this->together('void', [$book, 1001], [$book, 1001]);
        $post->wait();
        self::assertSame(['done', "posting\ndone"], [$done, $post->getOutput()]);
        self::assertStringStartsWith('refused: ', $refused);
        self::assertSame(
            ['1001 voided', '1002 issued'],
            $this->db()->fetchFirstColumn(
                "SELECT CONCAT(number, ' ', state) FROM bank_check WHERE check_book_id = ? AND number < 1003 ORDER BY number",
                [$book],
            ),
        );
        self::assertSame(
            11,
            (int) $this->db()->fetchOne(
                "SELECT COUNT(*) FROM bank_check WHERE check_book_id = ? AND state = 'issued'",
                [$book],
            ),
        );
    }

    /** Killed in the middle of 300 payments, wherever that is. */
    public function testAKilledWorkerRepeatsNothingAndLeavesNothingOut(): void
    {
        $job = self::get(StartRun::class)->start($this->clerk, $this->ready(300));
        $struck = 0;
        foreach ([5, 60, 150] as $milliseconds) {
            $struck += (int) $this->struck(
                $job,
                $milliseconds,
                static fn (Process $worker) => $worker->stop(0, \SIGKILL),
            );
        }
        self::assertGreaterThan(0, $struck, 'at least one blow struck');
        $this->goesOn($job);
    }
}
