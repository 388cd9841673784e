<?php

declare(strict_types=1);

namespace Nelbix\Tests\App;

use Nelbix\App\Books\UndoSettlement;
use Nelbix\App\Import\ImportFile;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Ledger\Side;
use Nelbix\Core\Problem;

final class ImportTest extends AppCase
{
    /** @return array{created: int, errors: list<string>} errors as "line field" */
    private function import(string $kind, string $csv, bool $dryRun = false): array
    {
        $r = self::get(ImportFile::class)->import($this->clerk, $kind, $csv, $dryRun);

        return [
            'created' => $r['created'],
            'errors' => array_map(static fn (Problem $p): string => $p->line.' '.$p->field, $r['errors']),
        ];
    }

    public function testInvoicesOfSeveralRowsAndTheExampleReceipt(): void
    {
        self::assertSame(
            ['created' => 2, 'errors' => []],
            $this->import(
                'customer-invoices',
                "party,number,document_date,account,amount\n".
                    "C-1,CI-26-00388,2026-06-10,4000,600.00\n".
                    "C-1,CI-26-00388,2026-06-10,4100,400.00\n".
                    "C-1,CI-26-00401,2026-06-10,4000,400.00\n",
            ),
        );
        // commands.md, the example
        self::assertSame(
            ['created' => 1, 'errors' => []],
            $this->import(
                'receipts',
                "party,date,bank,reference,currency,amount,apply_to,applied,discount\n".
                    "C-1,2026-06-15,1000,T-881,USD,1470.00,CI-26-00388,1000.00,20.00\n".
                    "C-1,2026-06-15,1000,T-881,USD,1470.00,CI-26-00401,400.00,\n",
            ),
        );
        self::assertSame(
            [147000, 2000, -9000],
            [$this->balance('1000'), $this->balance('4900'), $this->balance('1200')],
        );
    }

    public function testEveryErrorIsListedAndNothingChanges(): void
    {
        $r = $this->import(
            'vendor-invoices',
            "party,number,document_date,account,amount,tax_code\n".
                "V-1,1,2026-06-01,5000,10.00,\n".
                "V-1,2,2026-06-01,5000,10.005,P8\n".
                "V-9,3,2026-06-01,9999,10.00,XX\n".
                "V-1,,2026-13-01,5000,10.00,\n".
                "V-1,1,2026-06-02,5000,10.00,\n",
        );
        self::assertSame(0, $r['created']);
        foreach (
            ['3 amount', '4 party', '4 account', '4 tax_code', '5 document_date', '5 number', '6 number'] as $expected
        ) {
            self::assertContains($expected, $r['errors']);
        }
        self::assertSame(0, (int) $this->db()->fetchOne('SELECT COUNT(*) FROM document'));
    }

    public function testDryRunChangesNothing(): void
    {
        self::assertSame(1, $this->import('vendors', "code,name\nV-7,Corrie Bronze\n", true)['created']);
        self::assertSame(0, (int) $this->db()->fetchOne("SELECT COUNT(*) FROM party WHERE code = 'V-7'"));
    }

    public function testBasics(): void
    {
        self::assertSame([], $this->import('accounts', "number,name,type,role\n5010,Timber,expense,\n")['errors']);
        self::assertSame(
            ['2 role'],
            $this->import('accounts', "number,name,type,role\n5011,Second refunds,liability,refunds_payable\n")[
                'errors'
            ],
        );
        self::assertSame(
            [],
            $this->import('terms', "code,text,use,runs_from,net,discounts\nT1,3 in 5,both,document,30,3@5\n")['errors'],
        );
        self::assertSame(
            ['2 instalments'],
            $this->import('terms', "code,text,use,runs_from,net,instalments\nT2,bad,both,document,0,50@30\n")['errors'],
        );
        self::assertSame(
            [],
            $this->import('tax-codes', "code,text,rate,account,use\nP5,Five,5,1300,purchase\n")['errors'],
        );
        self::assertSame([], $this->import('rates', "date,from,to,rate\n2026-06-01,EUR,USD,1.085\n")['errors']);
        self::assertSame(
            [],
            $this->import(
                'payments',
                "party,date,bank,currency,amount,kind\nV-1,2026-06-15,1000,USD,500.00,prepayment\n",
            )['errors'],
        );
        self::assertSame([50000], [$this->balance('1250')]);
        self::assertSame(
            ['2 apply_to'],
            $this->import(
                'payments',
                "party,date,bank,currency,amount,apply_to,applied\nV-1,2026-06-15,1000,USD,5.00,none,5.00\n",
            )['errors'],
        );
    }

    public function testTenMegabytesOfNonsense(): void
    {
        mt_srand(3);
        $csv = "party,number,document_date,account,amount\n";
        while (\strlen($csv) < 10_000_000) {
            $csv .= bin2hex(pack('J', mt_rand())).','.mt_rand().",x,y,z\n";
        }
        $r = $this->import('vendor-invoices', $csv);
        self::assertSame(0, $r['created']);
        self::assertGreaterThanOrEqual(200, \count($r['errors']));
        foreach (
            [random_bytes(1000), str_repeat("\0", 1000), str_repeat('"', 9_999_999), str_repeat(',', 10_000_000)] as $nonsense
        ) {
            self::assertNotSame([], $this->import('vendor-invoices', $nonsense)['errors']);
        }
    }

    public function testJournalEntriesFromAFile(): void
    {
        self::assertSame(
            ['created' => 2, 'errors' => []],
            $this->import(
                'journal',
                "entry,date,text,account,debit,credit,bypass\n".
                    "1,2026-06-10,opening,1000,500.00,,\n".
                    "1,2026-06-10,opening,3000,,500.00,\n".
                    "2,2026-06-10,shop cash,1000,12.50,,yes\n".
                    "2,2026-06-10,shop cash,1200,,12.50,yes\n",
            ),
        );
        self::assertSame(
            [51250, -50000, -1250],
            [$this->balance('1000'), $this->balance('3000'), $this->balance('1200')],
        );
        self::assertSame(
            ['created' => 0, 'errors' => ['2 account', '4 debit', '6 debit', '8 text']],
            $this->import(
                'journal',
                "entry,date,text,account,debit,credit\n".
                    "3,2026-06-10,a control account,1200,1.00,\n".
                    "3,2026-06-10,a control account,1000,,1.00\n".
                    "4,2026-06-10,out of balance,1000,1.00,\n".
                    "4,2026-06-10,out of balance,3000,,2.00\n".
                    "5,2026-06-10,both,1000,1.00,1.00\n".
                    "6,2026-06-10,one,1000,1.00,\n".
                    "6,2026-06-10,other,3000,,1.00\n",
            ),
        );
        self::assertSame(2, (int) $this->db()->fetchOne('SELECT COUNT(*) FROM journal_entry'));
    }

    public function testSettlementsWithoutMoney(): void
    {
        $invoice = $this->itemOf($this->invoice(Side::Payables, '100.00', ['number' => 'S-1']));
        $credit = $this->itemOf($this->invoice(Side::Payables, '100.00', ['number' => 'S-2', 'kind' => 'credit_note']));
        $csv =
            "settlement,party,side,date,document,applied\n1,V-1,payables,2026-06-15,S-1,%s\n1,V-1,payables,2026-06-15,S-2,%s\n";
        self::assertSame(
            ['2 applied'],
            $this->import('settlements', \sprintf($csv, '100', '90'))['errors'],
            'it must add up to zero',
        );
        self::assertSame(
            ['2 party'],
            $this->import('settlements', str_replace('V-1', 'V-99', \sprintf($csv, '1', '1')))['errors'],
        );
        self::assertSame(
            ['3 document'],
            $this->import('settlements', str_replace('S-2', 'S-9', \sprintf($csv, '1', '1')))['errors'],
        );
        self::assertSame(['2 applied'], $this->import('settlements', \sprintf($csv, '-5', '5'))['errors']);
        self::assertSame([100 * 100, -100 * 100], [$this->open($invoice), $this->open($credit)]);
        self::assertSame(1, $this->import('settlements', \sprintf($csv, '100', '100'))['created']);
        self::assertSame([0, 0], [$this->open($invoice), $this->open($credit)]);
    }

    /** What stands in the same file has no number yet, and is called what it is. */
    public function testMessagesNameWhatHasNoNumberYet(): void
    {
        $this->invoice(Side::Receivables, '80.00', ['number' => 'E-1', 'currency' => 'EUR', 'rate' => '1.1']);
        $csv =
            "party,date,bank,reference,currency,amount,apply_to,applied\n".
            "C-1,2026-06-15,1000,A,USD,10.00,,\nC-1,2026-06-15,1000,B,USD,10.00,,\nC-1,2026-06-15,1000,C,USD,70.00,E-1,70.00\n";
        $errors = self::get(ImportFile::class)->import($this->clerk, 'receipts', $csv, true)['errors'];
        self::assertSame(
            [
                'It looks like an earlier one of 15 Jun 2026. Say why it is another one, or post nothing.',
                'this money belongs to another party, side or currency than E-1; settle them apart.',
            ],
            array_map(static fn (Problem $p): string => $p->message, $errors),
        );
    }

    /** A row that looks like what was taken from another file asks; undone, it does not stand in the way any more. */
    public function testRowsThatLookLikeWhatIsThereAsk(): void
    {
        $entry =
            "entry,date,text,account,debit,credit%s\n%s,2026-06-10,x,6400,5.00,%s\n%2\$s,2026-06-10,x,3000,,5.00%s\n";
        self::assertSame(1, $this->import('journal', \sprintf($entry, '', 'a', '', ''))['created']);
        self::assertSame(
            ['2 look_alike_reason'],
            $this->import('journal', \sprintf($entry, '', 'b', '', ''))['errors'],
        );
        $why = $this->import('journal', \sprintf($entry, ',look_alike_reason', 'b', ',second shift', ','));
        self::assertSame([1, 1000], [$why['created'], $this->balance('6400')]);
        self::assertSame(
            'second shift',
            $this->db()->fetchOne("SELECT detail FROM history WHERE action = 'not the one it looks like'"),
        );

        $this->invoice(Side::Payables, '100.00', ['number' => 'S-1']);
        $this->invoice(Side::Payables, '100.00', ['number' => 'S-2', 'kind' => 'credit_note']);
        $part =
            "settlement,party,side,date,document,applied%s\n%s,V-1,payables,2026-06-15,S-1,10%s\n".
            "%2\$s,V-1,payables,2026-06-15,S-2,10%s\n";
        self::assertSame(1, $this->import('settlements', \sprintf($part, '', '1', '', ''))['created']);
        self::assertSame(
            ['2 look_alike_reason'],
            $this->import('settlements', \sprintf($part, '', '2', '', ''))['errors'],
        );
        $why = \sprintf($part, ',look_alike_reason', '2', ',another ten', ',');
        self::assertSame(1, $this->import('settlements', $why)['created']);
        foreach ($this->db()->fetchFirstColumn('SELECT id FROM settlement') as $id) {
            self::get(UndoSettlement::class)->undo($this->clerk, (int) $id, Day::of('2026-06-15'));
        }
        self::assertSame(1, $this->import('settlements', \sprintf($part, '', '3', '', ''))['created']);
    }

    /** What was posted from a file is not posted from it again without a word, whoever takes it and through whichever door. */
    public function testTheSameFileAsks(): void
    {
        $file =
            "entry,date,text,account,debit,credit,look_alike_reason\n".
            "a,2026-06-10,x,6400,5.00,,one in the morning and one at night\na,2026-06-10,x,3000,,5.00,\n";
        self::assertSame(['created' => 1, 'errors' => []], $this->import('journal', $file, true));
        self::assertSame(['created' => 1, 'errors' => []], $this->import('journal', $file));
        self::assertSame(['created' => 0, 'errors' => ['1 ']], $this->import('journal', $file));
        self::assertSame(500, $this->balance('6400'));
        $import = self::get(ImportFile::class);
        self::assertStringContainsString(
            'taken over on',
            (string) $import->takenBefore($this->clerk, 'journal', $file),
        );
        self::assertSame([], $import->import($this->clerk, 'journal', $file, again: true)['errors'], 'it is meant');
        self::assertSame(1000, $this->balance('6400'));
        $wrong = "entry,date,text,account,debit,credit\na,2026-06-10,x,9999,5.00,\na,2026-06-10,x,3000,,5.00\n";
        self::assertSame(
            ['1 account'],
            array_map(static fn (string $e): string => '1'.substr($e, 1), $this->import('journal', $wrong)['errors']),
        );
        self::assertNull($import->takenBefore($this->clerk, 'journal', $wrong), 'nothing was taken from it');
    }
}
