<?php

declare(strict_types=1);

namespace Nelbix\Tests\App;

use Nelbix\App\Books\PlacementRequest;
use Nelbix\App\Books\ReverseDocument;
use Nelbix\App\Import\ImportFile;
use Nelbix\App\Money\ClaimKind;
use Nelbix\App\Money\ClaimRequest;
use Nelbix\App\Money\MakeClaim;
use Nelbix\App\Money\WriteOff;
use Nelbix\App\Parties\SaveReminderLadder;
use Nelbix\App\Payables\CandidateQuery;
use Nelbix\App\Receivables\ChargesQuery;
use Nelbix\App\Receivables\RemindersQuery;
use Nelbix\App\Work\Worker;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Ledger\Side;
use Nelbix\Core\Settlement\AdjustmentKind;

/** A long file of invoices: posted in slices (50 documents each in the tests), usable when all of it is there, or taken back. */
final class LotTest extends LotCase
{
    public function testALongFileIsPostedInSlicesAndReleasedAtTheEnd(): void
    {
        $file = $this->taken(self::csv(120));
        $worker = self::get(Worker::class);
        self::assertTrue($worker->next());
        self::assertSame([0, 'under_way'], $this->lot(), 'first all of it is checked, and nothing is posted');
        self::assertTrue($worker->next());
        self::assertSame([50, 'under_way'], $this->lot());
        self::assertSame(50, $this->posted());
        self::assertStringContainsString(
            'go on with it, or take it back, under Import',
            (string) self::get(ImportFile::class)->takenBefore($this->clerk, 'vendor-invoices', self::csv(120)),
        );
        $page = $this->page('/TEST/import')->filter('main')->text();
        self::assertStringContainsString('Not through yet', $page);
        self::assertStringContainsString('1 vendor file is not through', $this->page('/TEST')->text());

        // what is there waits: at every door
        $item = (int) $this->db()->fetchOne('SELECT MIN(id) FROM open_item');
        $document = (int) $this->db()->fetchOne('SELECT document_id FROM open_item WHERE id = ?', [$item]);
        $waits = '/came with import \d+, which is not through/';
        self::assertMatchesRegularExpression(
            $waits,
            self::said(fn () => self::get(ReverseDocument::class)->reverse($this->clerk, $document, 'mine')),
        );
        $proposed = [];
        foreach (self::get(CandidateQuery::class)->each($this->clerk->companyId) as $candidate) {
            $proposed[] = $candidate->reservedBy;
        }
        self::assertSame(['import '.$this->lotId()], array_values(array_unique($proposed)), 'no run takes one');
        self::assertStringContainsString(
            'import '.$this->lotId(),
            $this->page('/TEST/payables/document/'.$document)
                ->filter('main')
                ->text(),
        );

        self::assertTrue($worker->next());
        self::assertTrue($worker->next());
        self::assertSame([120, 'released'], $this->lot());
        self::assertFalse($worker->next());
        self::assertSame(120, $this->posted());
        self::assertSame(
            0,
            (int) $this->db()->fetchOne('SELECT COUNT(*) FROM open_item WHERE reserved_by_id IS NOT NULL'),
        );
        self::assertStringContainsString(
            '120 vendor invoices were made',
            $this->page('/TEST/import/file/'.$file)
                ->filter('main')
                ->text(),
        );
        self::assertStringNotContainsString('Not through yet', $this->page('/TEST/import')->text());
        self::get(ReverseDocument::class)->reverse($this->clerk, $document, 'mine');
        $this->refusedAgain(self::csv(120));
    }

    public function testWhatStopsInTheMiddleIsGoneOnWith(): void
    {
        $file = $this->taken(self::csv(120));
        $worker = self::get(Worker::class);
        $worker->next();
        $worker->next();
        // somebody enters one of the numbers by hand meanwhile
        $vendor = (int) $this->db()->fetchOne("SELECT id FROM party WHERE code = 'V-1'");
        $this->db()->executeStatement(
            "UPDATE document SET live_key = 'F-75' WHERE their_number = 'F-3' AND party_id = ?",
            [$vendor],
        );
        $worker->next();
        self::assertSame([50, 'under_way'], $this->lot(), 'what is posted stays, the slice is not half there');
        self::assertFalse($worker->next());
        $this->browser->request('GET', '/TEST/import/file/'.$file);
        $page = $this->browser->followRedirect()->filter('main')->text();
        self::assertStringContainsString('Line 76, number', $page);
        self::assertStringContainsString('50 of 120 documents are posted and wait', $page);
        $this->db()->executeStatement("UPDATE document SET live_key = 'F-3' WHERE their_number = 'F-3'");
        $at = '/TEST/import/lot/'.$this->lotId();
        $this->post($at, $at.'/go-on', []);
        while ($worker->next()) {
        }
        self::assertSame([120, 'released'], $this->lot());
        self::assertSame(120, $this->posted());
        self::assertStringContainsString(
            'load the page anew',
            $this->post($at, $at.'/take-back', ['reason' => 'late'])->text(),
        );
    }

    public function testWhatStopsInTheMiddleIsTakenBack(): void
    {
        $csv = self::csv(120);
        $this->taken($csv);
        $worker = self::get(Worker::class);
        $worker->next();
        $worker->next();
        $at = '/TEST/import/lot/'.$this->lotId();
        $token = ['_token' => $this->page($at)->filter('input[name=_token]')->attr('value'), 'reason' => 'not mine'];
        $this->as('receivables');
        foreach ([['GET', ''], ['POST', '/go-on'], ['POST', '/take-back']] as [$method, $action]) {
            $this->browser->request($method, $at.$action, $token);
            self::assertSame(
                403,
                $this->browser->getResponse()->getStatusCode(),
                'who enters no vendor invoices '.$action,
            );
        }
        $this->as('controller');
        self::assertStringContainsString('Say why', $this->post($at, $at.'/take-back', [])->text());
        self::assertSame([50, 'under_way'], $this->lot());
        $this->post($at, $at.'/take-back', ['reason' => 'the wrong month']);
        self::assertSame([50, 'taking_back'], $this->lot());
        while ($worker->next()) {
        }
        self::assertSame([50, 'taken_back'], $this->lot());
        self::assertSame(0, $this->posted());
        self::assertSame(
            50,
            (int) $this->db()->fetchOne(
                "SELECT COUNT(*) FROM document WHERE state = 'reversed' AND lot_id IS NOT NULL",
            ),
        );
        self::assertSame(
            'the wrong month',
            $this->db()->fetchOne("SELECT detail FROM history WHERE action = 'reversed' ORDER BY id DESC LIMIT 1"),
        );
        // and the same file may come again, as if it never had
        $this->taken($csv);
        while ($worker->next()) {
        }
        self::assertSame([120, 'released'], $this->lot());
        self::assertSame(120, $this->posted());
    }

    public function testAFileThatIsWrongAtItsEndByNowPostsNothing(): void
    {
        $file = $this->taken(self::csv(120));
        $this->invoice(Side::Payables, '1.00', ['number' => 'F-120']);
        while (self::get(Worker::class)->next()) {
        }
        self::assertSame(1, $this->posted());
        $this->browser->request('GET', '/TEST/import/file/'.$file);
        self::assertSame(422, $this->browser->getResponse()->getStatusCode());
        self::assertSame(0, (int) $this->db()->fetchOne('SELECT COUNT(*) FROM posting_lot'));
    }

    /** What came with a lot that is not through is in the books, and no door takes it, asks for it or charges it. */
    public function testNothingTakesWhatCameWithALotThatIsNotThrough(): void
    {
        $csv = str_replace(['V-1,', ',5000,', '2026-06-02'], ['C-1,', ',4000,', '2026-03-02'], self::csv(120));
        $this->taken($csv, 'customer-invoices');
        $worker = self::get(Worker::class);
        $worker->next();
        $company = $this->clerk->companyId;
        $ladder = self::get(SaveReminderLadder::class)->save($this->clerk, [
            'code' => 'USUAL',
            'name' => 'usual',
            'rungs' => '7',
            'fees' => '0',
            'texts' => 'kindly',
        ]);
        $this->db()->executeStatement(
            "UPDATE party SET charge_rate = 18, reminder_ladder_id = ? WHERE company_id = ? AND code = 'C-1'",
            [$ladder, $company],
        );
        $asked = fn (): array => [
            \count(self::get(RemindersQuery::class)->of($company, 'USD', Day::of(self::DAY))),
            \count(self::get(ChargesQuery::class)->of($company, Day::of(self::DAY))),
        ];
        $worker->next();
        self::assertSame([50, 'under_way'], $this->lot());
        $item = (int) $this->db()->fetchOne('SELECT MIN(id) FROM open_item WHERE reserved_by_id < 0');
        $account = (int) $this->db()->fetchOne('SELECT id FROM account WHERE company_id = ? AND number = ?', [
            $company,
            '6900',
        ]);
        $waits = '/came with import \d+, which is not through/';
        foreach (
            [
                'a receipt' => fn () => $this->money(Side::Receivables, 10100, [new PlacementRequest($item, 10100)]),
                'a write-off' => fn () => self::get(WriteOff::class)->write(
                    $this->clerk,
                    [$item => 10100],
                    AdjustmentKind::BadDebt,
                    $account,
                    Day::of(self::DAY),
                    'x',
                ),
                'a claim' => fn () => self::get(MakeClaim::class)->make(
                    $this->clerk,
                    new ClaimRequest($item, 100, ClaimKind::Disputed, 'x'),
                    Day::of(self::DAY),
                ),
            ] as $door => $do
        ) {
            self::assertMatchesRegularExpression($waits, self::said($do), $door);
        }
        self::assertSame([0, 0], $asked(), 'neither reminded of nor charged');
        while ($worker->next()) {
        }
        self::assertSame([120, 'released'], $this->lot());
        self::assertNotSame([0, 0], $asked());
        self::assertGreaterThan(0, $this->money(Side::Receivables, 10100, [new PlacementRequest($item, 10100)]));
    }

    /** Pages an hour old, second clicks and second persons: each finds the lot as it stands. */
    public function testALotIsGoneOnWithOrTakenBackOnce(): void
    {
        $this->taken(self::csv(120));
        $worker = self::get(Worker::class);
        $worker->next();
        $worker->next();
        $at = '/TEST/import/lot/'.$this->lotId();
        self::assertStringContainsString('under way already', $this->post($at, $at.'/go-on', [])->text());
        $this->post($at, $at.'/take-back', ['reason' => 'the wrong month']);
        $worker->next();
        self::assertStringContainsString('being taken back', $this->post($at, $at.'/go-on', [])->text());
        self::assertStringContainsString('under way already', $this->post($at, $at.'/take-back', [])->text());
        $this->as('payables');
        self::assertStringContainsString(
            'has it worked on',
            $this->page($at)->text(),
            'another clerk is told, and asks no job of hers',
        );
        $this->as('controller');
        while ($worker->next()) {
        }
        self::assertSame([50, 'taken_back'], $this->lot());
        self::assertStringContainsString('load the page anew', $this->post('/TEST/import', $at.'/go-on', [])->text());
        self::assertSame(
            0,
            (int) $this->db()->fetchOne("SELECT COUNT(*) FROM job WHERE state IN ('waiting', 'running')"),
        );
    }

    private function refusedAgain(string $csv): void
    {
        $file = $this->taken($csv);
        while (self::get(Worker::class)->next()) {
        }
        self::assertSame(120, (int) $this->db()->fetchOne('SELECT COUNT(*) FROM document WHERE lot_id IS NOT NULL'));
        $this->browser->request('GET', '/TEST/import/file/'.$file);
        self::assertSame(422, $this->browser->getResponse()->getStatusCode(), 'the same file is asked about');
    }

    private static function csv(int $records): string
    {
        $csv = "party,number,document_date,account,amount\n";
        for ($n = 1; $n <= $records; ++$n) {
            $csv .= \sprintf("V-1,F-%d,2026-06-02,5000,%d.00\n", $n, 100 + $n);
        }

        return $csv;
    }

    private function posted(): int
    {
        return (int) $this->db()->fetchOne(
            "SELECT COUNT(*) FROM document WHERE state = 'posted' AND reverses_id IS NULL",
        );
    }
}
