<?php

declare(strict_types=1);

namespace Nelbix\Tests\App;

use Nelbix\App\Books\PlacementRequest;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Formats\Statement\BankStatement;
use Nelbix\Core\Formats\Statement\Mt940Writer;
use Nelbix\Core\Formats\Statement\StatementLine;
use Nelbix\Core\Ledger\DocumentKind;
use Nelbix\Core\Ledger\Side;
use Symfony\Bundle\FrameworkBundle\Console\Application;
use Symfony\Component\Console\Command\Command;
use Symfony\Component\Console\ConsoleEvents;
use Symfony\Component\Console\Event\ConsoleSignalEvent;
use Symfony\Component\Console\Input\ArrayInput;
use Symfony\Component\Console\Output\NullOutput;
use Symfony\Component\Console\Tester\CommandTester;
use Symfony\Contracts\EventDispatcher\EventDispatcherInterface;

/** The commands and the shape of their JSON. Source: commands.md. */
final class CommandTest extends AppCase
{
    /**
     * @param array<string, mixed> $input
     *
     * @return array<mixed>
     */
    private function console(string $name, array $input = [], int $code = 0): array
    {
        $tester = new CommandTester((new Application(self::$kernel ?? self::bootKernel()))->find($name));
        self::assertSame(
            $code,
            $tester->execute([
                ...$input,
                '--format' => 'json',
                ...'nelbix:company:create' === $name ? [] : ['--company' => 'TEST'],
            ]),
            $tester->getDisplay(),
        );

        return json_decode($tester->getDisplay(), true, 64, \JSON_THROW_ON_ERROR);
    }

    private function file(string $text): string
    {
        $path = tempnam(sys_get_temp_dir(), 'nelbix') ?: self::fail();
        file_put_contents($path, $text);

        return $path;
    }

    public function testCompanyCreate(): void
    {
        self::assertSame(
            [['company' => 'NEWCO']],
            $this->console('nelbix:company:create', ['code' => 'NEWCO', '--name' => 'New', '--base-currency' => 'EUR']),
        );
        self::assertSame(
            36,
            (int) $this->db()->fetchOne(
                "SELECT COUNT(*) FROM period p JOIN company c ON c.id = p.company_id WHERE c.code = 'NEWCO'",
            ),
        );
        self::assertSame(
            '1000',
            $this->db()->fetchOne(
                "SELECT b.code FROM bank_account b JOIN company c ON c.id = b.company_id WHERE c.code = 'NEWCO'",
            ),
        );
        self::assertSame('code', $this->console('nelbix:company:create', ['code' => 'NEWCO'], 1)['errors'][0]['field']);
        self::assertSame(
            'currency',
            $this->console('nelbix:company:create', ['code' => 'X1', '--base-currency' => 'dollars'], 1)['errors'][0][
                'field'
            ],
        );
    }

    /** What the board offers, in its order; source: rules.md, Proposing where a receipt goes. */
    public function testIdeas(): void
    {
        foreach (['50.00', '30.00', '30.00'] as $amount) {
            $this->invoice(Side::Receivables, $amount, ['terms' => 'N30', 'look_alike_reason' => 'another']);
        }
        $ideas = fn (string $amount, string $text = ''): array => $this->console('nelbix:ideas', [
            '--customer' => 'C-1',
            '--amount' => $amount,
            '--text' => $text,
        ]);
        self::assertSame([], $ideas('30.00'), 'two fit');
        self::assertSame(
            [
                [
                    'reason' => 'one amount fits',
                    'placements' => [['document' => 'CI-26-00001', 'applied' => '50.00', 'discount' => '0.00']],
                ],
            ],
            $ideas('50.00'),
        );
        self::assertSame(['their text names it'], array_column($ideas('30.00', 'for CI-26-00002'), 'reason'));
        self::assertSame(
            'amount',
            $this->console('nelbix:ideas', ['--customer' => 'C-1', '--amount' => 'x'], 1)['errors'][0]['field'],
        );
        self::assertSame(
            'customer',
            $this->console('nelbix:ideas', ['--customer' => 'C-9', '--amount' => '1'], 1)['errors'][0]['field'],
        );
    }

    public function testImport(): void
    {
        $good = $this->file("code,name\nV-8,Sable Sailcloth\n");
        self::assertSame(
            ['created' => 1, 'errors' => []],
            $this->console('nelbix:import', ['kind' => 'vendors', 'file' => $good, '--dry-run' => true]),
        );
        self::assertSame(
            ['created' => 1, 'errors' => []],
            $this->console('nelbix:import', ['kind' => 'vendors', 'file' => $good]),
        );
        $again = $this->console('nelbix:import', ['kind' => 'vendors', 'file' => $good], 1);
        self::assertSame(
            [0, 2, 'code'],
            [$again['created'], $again['errors'][0]['line'], $again['errors'][0]['field']],
        );
        self::assertSame(
            'kind',
            $this->console('nelbix:import', ['kind' => 'spaceships', 'file' => $good], 1)['errors'][0]['field'],
        );
        self::assertSame(
            'file',
            $this->console('nelbix:import', ['kind' => 'vendors', 'file' => '/nowhere'], 1)['errors'][0]['field'],
        );
        $bank = $this->file("code,name,iban\nV-9,Corrie Bronze,DK5000400440116243\n");
        $this->console('nelbix:import', ['kind' => 'vendors', 'file' => $bank]);
        self::assertSame(
            0,
            (int) $this->db()->fetchOne("SELECT bank_confirmed FROM party WHERE code = 'V-9'"),
            'imported bank details await a second person',
        );
        $this->console('nelbix:import', [
            'kind' => 'vendors',
            'file' => $this->file("code,name,iban\nV-10,Corrie Bronze,DK5000400440116243\n"),
            '--approved' => true,
        ]);
        self::assertSame(1, (int) $this->db()->fetchOne("SELECT bank_confirmed FROM party WHERE code = 'V-10'"));
    }

    public function testALongFileOfInvoicesIsTakenInSlices(): void
    {
        $csv = "party,number,document_date,account,amount\n";
        for ($n = 1; $n <= 120; ++$n) {
            $csv .= \sprintf("V-1,F-%d,2026-06-02,5000,%d.00\n", $n, 100 + $n);
        }
        $import = ['kind' => 'vendor-invoices', 'file' => $this->file($csv)];
        self::assertSame(120, $this->console('nelbix:import', $import)['created']);
        self::assertSame([['released', 120]], $this->db()->fetchAllNumeric('SELECT state, posted FROM posting_lot'));
        $again = $this->console('nelbix:import', $import, 1);
        self::assertStringContainsString('This very file was taken over on', $again['errors'][0]['message']);
    }

    /** Whoever runs the machine took it in: an entry above the limit waits for nobody, in slices no more than at once. */
    public function testALongFileOfEntriesIsTakenInSlices(): void
    {
        $csv = "entry,date,text,account,debit,credit\n";
        for ($n = 1; $n <= 60; ++$n) {
            $csv .= \sprintf(
                "%d,2026-06-02,wages %1\$d,6400,%d.00,\n%1\$d,2026-06-02,wages %1\$d,3000,,%2\$d.00\n",
                $n,
                400 * $n,
            );
        }
        self::assertSame(
            60,
            $this->console('nelbix:import', ['kind' => 'journal', 'file' => $this->file($csv)])['created'],
        );
        self::assertSame([['released', 60]], $this->db()->fetchAllNumeric('SELECT state, posted FROM posting_lot'));
        self::assertSame(['posted'], $this->db()->fetchFirstColumn('SELECT DISTINCT state FROM manual_entry'));
        self::assertSame(((400 * 60 * 61) / 2) * 100, $this->balance('6400'));
    }

    /** A file of many lines and few entries is taken at once, and approved no less. */
    public function testALongEntryOfAFileWaitsForNobody(): void
    {
        $csv = "entry,date,text,account,debit,credit\n1,2026-06-02,wages,3000,,12000.00\n";
        for ($n = 1; $n <= 60; ++$n) {
            $csv .= "1,2026-06-02,wages,6400,200.00,\n";
        }
        self::assertSame(
            1,
            $this->console('nelbix:import', ['kind' => 'journal', 'file' => $this->file($csv)])['created'],
        );
        self::assertSame(['posted'], $this->db()->fetchFirstColumn('SELECT state FROM manual_entry'));
        self::assertSame(0, (int) $this->db()->fetchOne('SELECT COUNT(*) FROM posting_lot'));
    }

    public function testTerms(): void
    {
        $expected = [
            [
                'due' => '2026-05-12',
                'amount' => '1000.00',
                'discounts' => [['through' => '2026-04-22', 'percent' => '2', 'amount' => '20.00']],
            ],
        ];
        self::assertSame(
            $expected,
            $this->console('nelbix:terms', [
                'code' => '2-10-N30',
                '--document-date' => '2026-04-12',
                '--amount' => '1000.00',
            ]),
        );
        self::assertSame(
            $expected,
            $this->console('nelbix:terms', [
                '--spec' => '{"net":"30","discounts":"2@10"}',
                '--document-date' => '2026-04-12',
                '--amount' => '1000.00',
            ]),
        );
        self::assertSame(
            'code',
            $this->console('nelbix:terms', ['code' => 'NOPE', '--document-date' => '2026-04-12', '--amount' => '1'], 1)[
                'errors'
            ][0]['field'],
        );
        self::assertSame(
            'document-date',
            $this->console('nelbix:terms', ['code' => 'N30', '--document-date' => 'soon', '--amount' => '1'], 1)[
                'errors'
            ][0]['field'],
        );
    }

    public function testReports(): void
    {
        $id = $this->invoice(Side::Payables, '1000.00', [
            'number' => 'R-1',
            'document_date' => '2026-04-01',
            'terms' => 'N30',
        ]);
        $this->money(
            Side::Payables,
            30000,
            [new PlacementRequest($this->itemOf($id), 30000)],
            [],
            '2026-06-10',
            DocumentKind::Payment,
        );
        self::assertSame(
            [
                [
                    'party' => 'V-1',
                    'document' => 'VI-26-00001',
                    'their_number' => 'R-1',
                    'kind' => 'invoice',
                    'due' => '2026-05-01',
                    'currency' => 'USD',
                    'original' => '1000.00',
                    'open' => '700.00',
                    'open_base' => '700.00',
                ],
            ],
            $this->console('nelbix:open-items', ['side' => 'payables', '--party' => 'V-1']),
        );
        self::assertSame(
            '1000.00',
            $this->console('nelbix:open-items', ['side' => 'payables', '--as-of' => '2026-06-09'])[0]['open'],
        );
        $aging = $this->console('nelbix:aging', ['side' => 'payables', '--detail' => true]);
        self::assertSame(
            [
                [
                    'party' => 'V-1',
                    'not_due' => '0.00',
                    'buckets' => ['0.00', '700.00', '0.00', '0.00'],
                    'credits' => '0.00',
                    'prepayments' => '0.00',
                    'total' => '700.00',
                ],
            ],
            $aging['rows'],
        );
        self::assertSame(['700.00', 'VI-26-00001'], [$aging['total']['total'], $aging['items'][0]['document']]);
        self::assertSame(
            ['0.00', '700.00'],
            $this->console('nelbix:aging', [
                'side' => 'payables',
                '--by' => 'document',
                '--buckets' => '60',
                '--currency' => 'document',
            ])['rows'][0]['buckets'],
        );
        foreach (
            [
                ['side' => 'sideways'],
                ['side' => 'payables', '--by' => 'moon'],
                ['side' => 'payables', '--buckets' => '9,1'],
            ] as $bad
        ) {
            self::assertCount(1, $this->console('nelbix:aging', $bad, 1)['errors']);
        }
        $trial = array_column($this->console('nelbix:trial-balance'), 'balance', 'account');
        self::assertSame(['1000' => '-300.00', '2100' => '-700.00', '5000' => '1000.00'], $trial);
        $journal = $this->console('nelbix:journal', ['number' => 'VI-26-00001']);
        self::assertSame(
            ['JE-26-00001', '2026-04-01', ['2100', '5000']],
            [$journal[0]['entry'], $journal[0]['date'], array_column($journal[0]['lines'], 'account')],
        );
        self::assertSame('number', $this->console('nelbix:journal', ['number' => 'XX-1'], 1)['errors'][0]['field']);
        $tie = array_column($this->console('nelbix:tie-out'), null, 'account')['2100'];
        self::assertSame(
            ['700.00', '700.00', '0.00', null, []],
            [$tie['ledger'], $tie['items'], $tie['difference'], $tie['break_day'], $tie['explained_by']],
        );
        self::assertSame(['yes'], array_unique(array_column($this->console('nelbix:verify'), 'holds')));
        $this->db()->executeStatement('UPDATE open_item SET open = 1 WHERE id = ?', [$this->itemOf($id)]);
        self::assertContains('NO', array_column($this->console('nelbix:verify', [], 1), 'holds'));
        $this->db()->executeStatement('UPDATE open_item SET open = 70000 WHERE id = ?', [$this->itemOf($id)]);
    }

    public function testPropose(): void
    {
        $this->invoice(Side::Payables, '1000.00', ['number' => 'R-1']);
        $this->invoice(Side::Payables, '80.00', ['number' => 'R-2', 'terms' => 'N60']);
        $options = ['--bank' => '1000', '--pay-date' => '2026-06-18', '--due-through' => '2026-06-18'];
        $r = $this->console('nelbix:propose', $options);
        self::assertSame(
            [
                [
                    'vendor' => 'V-1',
                    'document' => 'VI-26-00001',
                    'their_number' => 'R-1',
                    'open' => '1000.00',
                    'discount' => '20.00',
                    'pay' => '980.00',
                    'reason' => 'discount_at_stake',
                ],
            ],
            $r['in'],
        );
        self::assertSame(
            [
                [
                    'vendor' => 'V-1',
                    'document' => 'VI-26-00002',
                    'their_number' => 'R-2',
                    'open' => '80.00',
                    'reason' => 'not_due',
                ],
            ],
            $r['out'],
        );
        self::assertSame(
            [
                'gross' => '1000.00',
                'discount' => '20.00',
                'credits' => '0.00',
                'withholding' => '0.00',
                'pay' => '980.00',
                'lost' => '0.00',
            ],
            $r['totals'],
        );
        self::assertSame(
            [['vendor' => 'V-1', 'method' => 'check', 'amount' => '980.00', 'items' => 1]],
            $r['payments'],
        );
        self::assertSame(
            '20.00',
            $this->console('nelbix:propose', [...$options, '--at-least' => '5000'])['totals']['lost'],
        );
        self::assertSame(
            'over_cash',
            $this->console('nelbix:propose', [...$options, '--cash' => '979.99'])['out'][0]['reason'],
        );
        self::assertSame('PP-26-00001', $this->console('nelbix:propose', [...$options, '--save' => true])['saved']);
        self::assertSame('reserved', $this->console('nelbix:propose', $options)['out'][0]['reason']);
        $bad = $this->console(
            'nelbix:propose',
            [
                '--bank' => '9',
                '--pay-date' => 'x',
                '--vendor' => ['nobody'],
                '--if-late' => 'maybe',
                '--cash' => 'lots',
            ],
            1,
        );
        self::assertSame(['pay_date', 'bank', 'vendors', 'if_late', 'cash'], array_column($bad['errors'], 'field'));
    }

    public function testStatusTellsWhetherThereIsACompany(): void
    {
        $status = function (): string {
            $tester = new CommandTester((new Application(self::$kernel ?? self::bootKernel()))->find('nelbix:status'));
            self::assertSame(0, $tester->execute([]));

            return $tester->getDisplay();
        };
        self::assertSame('ready', $status());
        $this->db()->executeStatement('SET FOREIGN_KEY_CHECKS = 0');
        $this->db()->executeStatement('DELETE FROM company');
        self::assertSame('empty', $status());
        $this->db()->executeStatement('SET FOREIGN_KEY_CHECKS = 1');
    }

    public function testStatement(): void
    {
        $this->money(Side::Receivables, 50_000, date: '2026-06-12');
        $day = Day::of(self::DAY);
        $lines = [
            new StatementLine($day, $day, 50_000, 'thank you'),
            new StatementLine($day, $day, -700, 'nobody knows'),
        ];
        $file = $this->file(
            (new Mt940Writer())->write(new BankStatement('7', '', 'USD', $day, $day, 0, 49_300, $lines)),
        );
        $input = ['file' => $file, '--bank' => '1000', '--read-as' => 'mt940'];
        $said = $this->console('nelbix:statement', [...$input, '--dry-run' => true]);
        self::assertSame(['0.00', '493.00'], [$said['opening'], $said['closing']]);
        self::assertIsArray($said['lines']);
        self::assertSame(
            ['2026-06-15', '500.00', 'thank you'],
            \array_slice(array_values((array) $said['lines'][0]), 0, 3),
        );
        $found = (array) ((array) $said['lines'][0])['found'];
        self::assertSame(['movement', true], [$found['kind'], $found['sure']]);
        self::assertNull(((array) $said['lines'][1])['found']);
        self::assertSame(
            0,
            (int) $this->db()->fetchOne('SELECT COUNT(*) FROM bank_statement'),
            'it was only looked at',
        );
        self::assertSame($said, $this->console('nelbix:statement', $input));
        self::assertSame(2, (int) $this->db()->fetchOne('SELECT COUNT(*) FROM statement_line'));
        self::assertSame(50_000, $this->balance('1000'), 'nothing is posted');
        $this->console('nelbix:statement', $input, 1);
        $this->console('nelbix:statement', ['file' => $file, '--read-as' => 'bai2'], 1);
        $this->console('nelbix:statement', ['file' => $file, '--read-as' => 'paper'], 1);
    }

    public function testPair(): void
    {
        $spec = $this->file(
            (string) json_encode([
                'fields' => ['amount' => 'amount', 'date' => 'date', 'number' => ['ref', 'their ref']],
                'turn_sign' => true,
                'rules' => [
                    ['agree' => ['number'], 'amount_within' => '1%', 'days_within' => 2],
                    ['left' => 'one', 'right' => 'any', 'agree' => ['number']],
                    ['sole' => true, 'certain' => false],
                ],
            ]),
        );
        $left = $this->file(
            "ref,amount,date\nA-1,100.00,2026-06-01\nA-2,50.00,2026-06-01\n,7.00,2026-06-01\nX,9.00,2026-06-01\n",
        );
        $right = $this->file(
            "date,amount,their ref\n2026-06-02,-100.50,a1\n2026-06-02,-20.00,A2\n2026-06-02,-30.00,A2\n".
                "2026-07-02,-7.00,\n2026-06-01,-8.00,Y\n",
        );
        $said = $this->console('nelbix:pair', ['spec' => $spec, '--left' => $left, '--right' => $right]);
        self::assertSame(
            [
                'paired' => [
                    ['left' => [1], 'right' => [1], 'rule' => 1, 'certain' => true, 'difference' => '0.50'],
                    ['left' => [2], 'right' => [2, 3], 'rule' => 2, 'certain' => true, 'difference' => '0.00'],
                    ['left' => [3], 'right' => [4], 'rule' => 3, 'certain' => false, 'difference' => '0.00'],
                ],
                'over' => ['left' => [4], 'right' => [5]],
            ],
            $said,
        );
        $this->console('nelbix:pair', ['spec' => $left, '--left' => $left, '--right' => $right], 1);
        $this->console('nelbix:pair', ['spec' => $spec, '--left' => $left, '--right' => $left], 1);
        $none = $this->file('{"fields": {"amount": "amount"}, "rules": [{"left": "two", "amount_within": "x"}]}');
        $this->console('nelbix:pair', ['spec' => $none, '--left' => $left, '--right' => $right], 1);
    }

    /** A verify that was ended in the middle verified nothing: a restore asks for its exit code. */
    public function testWhatIsEndedFromOutsideDoesNotSayThatAllIsWell(): void
    {
        $event = new ConsoleSignalEvent(new Command('nelbix:verify'), new ArrayInput([]), new NullOutput(), \SIGTERM);
        self::get(EventDispatcherInterface::class)->dispatch($event, ConsoleEvents::SIGNAL);
        self::assertSame(128 + \SIGTERM, $event->getExitCode());
    }
}
