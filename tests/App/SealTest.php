<?php

declare(strict_types=1);

namespace Nelbix\Tests\App;

use Doctrine\DBAL\ParameterType;
use Nelbix\App\Books\ChangePosted;
use Nelbix\App\Books\ReverseDocument;
use Nelbix\App\Books\UndoSettlement;
use Nelbix\App\Close\Proving\HistoryListQuery;
use Nelbix\App\Close\Seal\CheckSeal;
use Nelbix\App\Close\Seal\Digests;
use Nelbix\App\Close\Seal\PackHistory;
use Nelbix\App\Close\Seal\SealedKind;
use Nelbix\App\Close\Seal\SealPosted;
use Nelbix\App\People\HistoryQuery;
use Nelbix\App\Platform\FileStore;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Ledger\Side;
use Symfony\Bundle\FrameworkBundle\Console\Application;
use Symfony\Component\Console\Tester\CommandTester;

/** The seal: what was posted is chained, and whatever is changed behind Nelbix’s back afterwards is named. */
final class SealTest extends AppCase
{
    private function seal(): int
    {
        while (self::get(SealPosted::class)->company($this->clerk->companyId)) {
        }

        return (int) $this->db()->fetchOne('SELECT COUNT(*) FROM seal WHERE company_id = ?', [$this->clerk->companyId]);
    }

    /**
     * @return list<string>
     *
     * @phpstan-impure
     */
    private function check(): array
    {
        return self::get(CheckSeal::class)->of($this->clerk->companyId);
    }

    /** What happened years ago is packed: it is said of its record as before, and the seal holds, and finds a pack that was altered. */
    public function testOldHistoryIsPackedWithTheSealIntact(): void
    {
        $document = $this->invoice(Side::Payables, '100.00');
        $company = $this->clerk->companyId;
        for ($n = 0; $n < 600; ++$n) {
            $this->db()->executeStatement(
                'INSERT INTO history (company_id, subject, subject_id, action, detail, user_id, happened_at) VALUES (?, ?, ?, ?, ?, ?, ?)',
                [
                    $company,
                    0 === $n % 200 ? 'exchange_rate' : 'document',
                    0 === $n % 3 ? $document : $document + $n,
                    'amended',
                    'π to “'.$n.'”',
                    $this->clerk->userId,
                    '2022-05-0'.(1 + ($n % 9)).' 08:00:00',
                ],
            );
        }
        $count = fn (): int => (int) $this->db()->fetchOne('SELECT COUNT(*) FROM history WHERE company_id = ?', [
            $company,
        ]);
        $all = $count();
        $of = fn (): array => self::get(HistoryQuery::class)->of($company, 'document', $document);
        $before = $of();
        self::assertFalse(self::get(PackHistory::class)->company($company), 'what is not sealed stays');
        $this->seal();
        self::assertTrue(self::get(PackHistory::class)->company($company));
        self::assertFalse(self::get(PackHistory::class)->company($company));
        self::assertSame($all - 597, $count(), 'all of that year but the rates');
        self::assertSame('', implode($this->check()));
        $sorted = static function (array $rows): array {
            sort($rows);

            return $rows;
        };
        self::assertSame($sorted($before), $sorted($of()));
        self::assertSame('posted', $of()[\count($before) - 1]['action'], 'what came later stands last');
        $asked = ['who' => '', 'what' => '', 'text' => '“3”', 'from' => '2022-05-04', 'to' => '2022-05-04'];
        self::assertSame(
            [['2022-05-04 08:00:00', 'document', (string) $document]],
            array_map(
                static fn (array $r): array => [$r[0], $r[2], $r[3]],
                iterator_to_array(self::get(HistoryListQuery::class)->packed($company, $asked), false),
            ),
        );
        $this->db()->executeStatement('SAVEPOINT honest');
        $this->db()->executeStatement(
            'UPDATE history_pack SET content = ? WHERE company_id = ?',
            [
                gzdeflate(
                    str_replace(
                        'π to “5”',
                        'π to “6”',
                        (string) gzinflate((string) $this->db()->fetchOne('SELECT content FROM history_pack')),
                    ),
                ),
                $company,
            ],
            [ParameterType::LARGE_OBJECT],
        );
        self::assertStringContainsString('was changed since it was sealed', implode($this->check()));
        $this->db()->executeStatement('DELETE FROM history_packed');
        $this->db()->executeStatement('DELETE FROM history_pack');
        self::assertStringContainsString('has gone since it was sealed', implode($this->check()));
        $this->db()->executeStatement('ROLLBACK TO honest');
    }

    /** What was altered is not packed away: it stays where the seal finds it, and so does what comes after it. */
    public function testAlteredHistoryIsNotPacked(): void
    {
        $company = $this->clerk->companyId;
        $this->db()->executeStatement(
            'INSERT INTO history (company_id, subject, subject_id, action, detail, user_id, happened_at) '.
                "SELECT ?, 'document', seq, 'amended', 'x', ?, '2022-05-01 08:00:00' FROM seq_1_to_700",
            [$company, $this->clerk->userId],
        );
        $this->seal();
        $this->db()->executeStatement("UPDATE history SET detail = 'y' WHERE subject_id = 650 AND detail = 'x'");
        self::assertTrue(self::get(PackHistory::class)->company($company));
        self::assertSame(51, (int) $this->db()->fetchOne("SELECT COUNT(*) FROM history WHERE action = 'amended'"));
        self::assertStringContainsString('was changed since it was sealed', implode($this->check()));
        $this->db()->executeStatement("UPDATE history SET detail = 'x' WHERE detail = 'y'");
        self::assertSame('', implode($this->check()));
    }

    public function testWhatIsDoneInTheProductKeepsTheSeal(): void
    {
        $invoice = $this->invoice(Side::Payables, '20000.00', ['terms' => 'N30']);
        $other = $this->invoice(Side::Payables, '100.00');
        self::assertSame('', implode($this->check()), 'nothing is sealed yet');
        $sealed = $this->seal();
        self::assertGreaterThanOrEqual(6, $sealed, 'two entries, two documents, their history');
        self::assertSame('', implode($this->check()));
        // everything that may still happen to what is sealed
        self::get(ChangePosted::class)->decide($this->approver, $invoice, true);
        self::get(ChangePosted::class)->hold($this->clerk, $invoice, 'price');
        self::get(ChangePosted::class)->amend($this->clerk, $invoice, Day::of('2026-08-01'), 'ref');
        self::get(ReverseDocument::class)->reverse($this->clerk, $other, 'x');
        $this->invoice(Side::Payables, '50.00', ['document_date' => '2026-04-01']);
        $this->postRun($this->printedRun());
        $this->seal();
        $settlement = (int) $this->db()->fetchOne('SELECT MAX(id) FROM settlement');
        self::get(UndoSettlement::class)->undo($this->clerk, $settlement);
        self::assertSame('', implode($this->check()));
        self::assertGreaterThan($sealed, $this->seal());
        self::assertSame('', implode($this->check()));
        self::assertSame($this->seal(), $this->seal(), 'nothing is sealed twice');
    }

    /** A paper goes along when its document is put right; its bytes do not change unseen. */
    public function testAPaperIsSealedByItsBytes(): void
    {
        $wrong = $this->invoice(Side::Payables, '100.00', ['number' => 'P-1']);
        $files = self::get(FileStore::class);
        $paper = $files->keep($this->clerk, 'paper', $wrong, 'x.pdf', '%PDF-1.4 x', ['application/pdf']);
        $this->seal();
        self::assertSame(1, (int) $this->db()->fetchOne("SELECT COUNT(*) FROM seal WHERE subject = 'paper'"));
        $this->db()->executeStatement('UPDATE stored_file SET subject_id = ? WHERE id = ?', [
            $this->invoice(Side::Payables, '90.00', ['number' => 'P-2']),
            $paper,
        ]);
        self::assertSame('', implode($this->check()));
        $this->db()->executeStatement('SAVEPOINT whole');
        $this->db()->executeStatement("UPDATE stored_file SET content = '%PDF-1.4 y' WHERE id = ?", [$paper]);
        self::assertStringContainsString('paper '.$paper.' was changed', implode($this->check()));
        $this->db()->executeStatement('ROLLBACK TO SAVEPOINT whole');
    }

    /** @return iterable<string, array{string, string}> */
    public static function tampering(): iterable
    {
        yield 'an amount of a line' => [
            'UPDATE journal_line SET base = base + 1 ORDER BY id LIMIT 1',
            'JE-26-00001 was changed',
        ];
        yield 'the text of an entry' => [
            "UPDATE journal_entry SET text = 'x' ORDER BY id LIMIT 1",
            'JE-26-00001 was changed',
        ];
        yield 'a line more' => [
            'INSERT INTO journal_line (entry_id, position, account_id, posting_date, base, amount, text) '.
            "SELECT entry_id, 9, account_id, posting_date, 0, 0, '' FROM journal_line ORDER BY id LIMIT 1",
            'JE-26-00001 was changed',
        ];
        yield 'the party of a document' => [
            'UPDATE document SET party_id = NULL ORDER BY id LIMIT 1',
            'VI-26-00001 was changed',
        ];
        yield 'a line of a document' => [
            "UPDATE document_line SET text = 'x' ORDER BY id LIMIT 1",
            'VI-26-00001 was changed',
        ];
        yield 'the history' => [
            "UPDATE history SET detail = 'nothing' ORDER BY id LIMIT 1",
            'of the history was changed',
        ];
        yield 'the history gone' => ['DELETE FROM history ORDER BY id LIMIT 1', 'has gone since'];
        yield 'a link' => [
            "UPDATE seal SET digest = REPEAT('x', 32) WHERE n = 2",
            'link 2 of the seal does not follow',
        ];
        yield 'a link gone' => ['DELETE FROM seal WHERE n = 2', 'link 2 of the seal is missing'];
        yield 'the end gone' => ['DELETE FROM seal ORDER BY n DESC LIMIT 1', 'says that it has'];
    }

    #[\PHPUnit\Framework\Attributes\DataProvider('tampering')]
    public function testWhatIsChangedBehindItsBackIsNamed(string $sql, string $named): void
    {
        $this->invoice(Side::Payables, '100.00');
        $this->invoice(Side::Payables, '200.00');
        $this->seal();
        $this->db()->executeStatement('SAVEPOINT whole');
        $this->db()->executeStatement($sql);
        self::assertStringContainsString($named, implode($this->check()));
        $this->db()->executeStatement('ROLLBACK TO SAVEPOINT whole');
        self::assertSame('', implode($this->check()));
    }

    /** A record that is put where everything was sealed long ago is found too. */
    public function testARecordPutBeforeWhatIsSealed(): void
    {
        $this->invoice(Side::Payables, '100.00');
        $this->db()->executeStatement(
            "UPDATE history SET id = id + 100000, happened_at = '2026-01-01' ORDER BY id DESC",
        );
        $this->seal();
        self::assertSame('', implode($this->check()));
        $this->db()->executeStatement('SAVEPOINT whole');
        $this->db()->executeStatement(
            'INSERT INTO history (id, company_id, subject, subject_id, action, detail, user_id, happened_at) '.
                "VALUES (1, ?, 'x', 1, 'x', '', ?, NOW())",
            [$this->clerk->companyId, $this->clerk->userId],
        );
        self::assertStringContainsString('stands before what is sealed', implode($this->check()));
        $this->db()->executeStatement('ROLLBACK TO SAVEPOINT whole');
    }

    /** One wrong record does not hide another. */
    public function testEveryWrongRecordIsNamed(): void
    {
        $this->invoice(Side::Payables, '100.00');
        $this->invoice(Side::Payables, '200.00');
        $this->seal();
        $this->db()->executeStatement('SAVEPOINT whole');
        $this->db()->executeStatement("UPDATE document_line SET text = 'x'");
        $said = implode(' ', $this->check());
        self::assertStringContainsString('VI-26-00001 was changed', $said);
        self::assertStringContainsString('VI-26-00002 was changed', $said);
        $this->db()->executeStatement('ROLLBACK TO SAVEPOINT whole');
    }

    /** Whoever keeps the schema alters a record, throws the seal away and lets it be made anew: only a head kept outside tells. */
    public function testASealMadeAnewDoesNotLeadToTheHeadThatWasKeptOutside(): void
    {
        $this->invoice(Side::Payables, '100.00');
        $this->invoice(Side::Payables, '200.00');
        $this->seal();
        $company = $this->clerk->companyId;
        $check = self::get(CheckSeal::class);
        $head = $check->head($company) ?? self::fail();
        $verify = function (string $head, int $exit): string {
            $command = new CommandTester((new Application(self::$kernel ?? self::fail()))->find('nelbix:verify'));
            self::assertSame(
                $exit,
                $command->execute(['--company' => 'TEST', '--head' => $head, '--format' => 'json']),
                $command->getDisplay(),
            );

            return $command->getDisplay();
        };
        $verify($head->words(), 0);
        $this->invoice(Side::Payables, '300.00');
        $this->seal();
        $verify($head->words(), 0);
        self::assertStringContainsString('does not lead to the head', $verify($head->n.':'.str_repeat('0', 64), 1));
        self::assertStringContainsString('does not lead to the head', $verify('999999:'.$head->hash, 1));
        self::assertStringContainsString('64 hexadecimal digits', $verify('12', 1));

        $this->db()->executeStatement('SAVEPOINT whole');
        $this->db()->executeStatement("UPDATE document_line SET text = 'x' ORDER BY id LIMIT 1");
        foreach (['seal', 'seal_head', 'seal_mark'] as $table) {
            $this->db()->executeStatement('DELETE FROM '.$table.' WHERE company_id = ?', [$company]);
        }
        $this->seal();
        self::assertSame([], $check->of($company), 'by itself it fits');
        self::assertStringContainsString('does not lead to the head', implode($check->of($company, $head)));
        $this->db()->executeStatement('ROLLBACK TO SAVEPOINT whole');
    }

    /** An empty or shorter chain beside what was posted long ago is a finding. */
    public function testPostedLongAgoAndNotSealed(): void
    {
        $this->invoice(Side::Payables, '100.00');
        $this->db()->executeStatement('UPDATE document SET posted_at = DATE_SUB(posted_at, INTERVAL 3601 SECOND)');
        $this->invoice(Side::Payables, '200.00');
        self::assertSame(
            ['1 documents were posted long ago and have no seal, the first of them VI-26-00001'],
            $this->check(),
        );
        $this->db()->executeStatement(
            "UPDATE document SET posted_at = DATE_ADD(posted_at, INTERVAL 1 SECOND) WHERE number = 'VI-26-00001'",
        );
        self::assertSame([], $this->check(), 'an hour is time enough');
        $this->seal();
        self::assertSame([], $this->check());
    }

    /** The link is SHA-256 over what docs/architecture.md says it is. */
    public function testALink(): void
    {
        $before = str_repeat("\1", 32);
        $digest = str_repeat("\2", 32);
        self::assertSame(
            hash('sha256', $before."\0\0\0\0\0\0\0\5".'entry'."\0\0\0\0\0\0\0\1\0".$digest),
            bin2hex(Digests::link($before, 5, SealedKind::Entry, 256, $digest)),
        );
    }
}
