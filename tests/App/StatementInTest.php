<?php

declare(strict_types=1);

namespace Nelbix\Tests\App;

use Nelbix\App\Banking\Statement\Choice;
use Nelbix\App\Banking\Statement\Overlap;
use Nelbix\App\Banking\Statement\PartKind;
use Nelbix\App\Banking\Statement\PlaceLine;
use Nelbix\App\Banking\Statement\StatementFiles;
use Nelbix\App\Banking\Statement\StatementStandIn;
use Nelbix\App\Banking\Statement\TakeStatement;
use Nelbix\App\Banking\Statement\UndoLine;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Formats\Statement\BankStatement;
use Nelbix\Core\Formats\Statement\StatementLine;
use Nelbix\Core\Ledger\Side;
use Nelbix\Tests\Core\StatementWriterTest;
use PHPUnit\Framework\Attributes\DataProvider;
use Symfony\Component\Process\Process;

/** Statements come in whole or not at all; what is there already, and what does not follow, is asked. Source: rules.md, Bank statements. */
final class StatementInTest extends StatementCase
{
    private function uploaded(string $bytes, string $name = 'statement.txt'): string
    {
        return $this->post($this->at('/new'), $this->at('/file'), [], ['file' => self::upload($bytes, $name)])
            ->filter('main')
            ->text();
    }

    private function at(string $path = ''): string
    {
        return '/TEST/bank/'.$this->bank()->id.'/statement'.$path;
    }

    private function lineCount(): int
    {
        return (int) $this->db()->fetchOne('SELECT COUNT(*) FROM statement_line');
    }

    /** What libraries that are not ours read of the same files. */
    public function testFilesAreReadAsOtherLibrariesReadThem(): void
    {
        $all = StatementWriterTest::statement();
        // of a reversal one of them says that it is none, and then its lines do not lead to its closing balance
        $lines = array_values(array_filter($all->lines, static fn (StatementLine $l): bool => !$l->reversal));
        $statement = new BankStatement(
            $all->number,
            $all->account,
            'EUR',
            $all->from,
            $all->to,
            $all->opening,
            94_190,
            $lines,
        );
        foreach (['camt053', 'mt940', 'ofx'] as $format) {
            $bytes = StatementStandIn::writer($format)->write($statement);
            $process = new Process(['node', __DIR__.'/statement.cjs', $format], \dirname(__DIR__, 2), null, $bytes);
            $process->run();
            self::assertSame(0, $process->getExitCode(), $process->getErrorOutput());
            $theirs = (array) json_decode($process->getOutput(), true);
            [$ours] = StatementFiles::read($bytes, $format);
            self::assertSame($ours->closing, $theirs['closing'], $format);
            if ('ofx' !== $format) {
                self::assertSame($ours->opening, $theirs['opening'], $format);
            }
            self::assertIsArray($theirs['lines']);
            self::assertSame(
                array_map(
                    static fn (StatementLine $l): array => [str_replace('-', '', $l->day->iso()), $l->amount],
                    $ours->lines,
                ),
                array_map(
                    static fn (mixed $l): array => \is_array($l) ? [str_replace('-', '', (string) $l[0]), $l[1]] : [],
                    $theirs['lines'],
                ),
                $format,
            );
        }
    }

    /** @return iterable<string, array{string}> */
    public static function formats(): iterable
    {
        foreach (['camt053', 'mt940', 'bai2', 'ofx'] as $format) {
            yield $format => [$format];
        }
    }

    #[DataProvider('formats')]
    public function testAFileIsTakenInOnce(string $format): void
    {
        $bytes = StatementStandIn::writer($format)->write(
            self::statement([
                self::line(50_000, 'thank you', ['bankReference' => 'B77']),
                self::line(-1_850, 'FEE', ['bankReference' => 'B78']),
            ]),
        );
        self::assertStringContainsString('1 statement is taken in', $this->uploaded($bytes));
        self::assertSame(2, $this->lineCount());
        self::assertStringContainsString('was taken in on', $this->uploaded($bytes));
        self::assertSame(2, $this->lineCount());
        self::assertSame(0, $this->balance('1000'), 'nothing is posted by it');
    }

    public function testOpeningAndLinesMustBeClosing(): void
    {
        $bytes = StatementStandIn::writer('mt940')->write(self::statement([self::line(50_000, 'x')]));
        self::assertStringContainsString('are missing', $this->uploaded(str_replace('USD500,00', 'USD400,00', $bytes)));
        self::assertSame(0, $this->lineCount());
    }

    public function testAFileThatIsNoStatementAndAnotherAccountAreSaid(): void
    {
        self::assertStringContainsString('no statement that is known here', $this->uploaded('hello'));
        $this->db()->executeStatement("UPDATE bank_account SET iban = 'DK5000400440116243'");
        $other = new BankStatement('7', 'NL91ABNA0417164300', 'USD', Day::of(self::DAY), Day::of(self::DAY), 0, 100, [
            self::line(100, 'x'),
        ]);
        self::assertStringContainsString(
            'The statement is of account NL91ABNA0417164300',
            $this->uploaded(StatementStandIn::writer('camt053')->write($other)),
        );
        $euro = new BankStatement('7', '', 'EUR', Day::of(self::DAY), Day::of(self::DAY), 0, 100, [
            self::line(100, 'x'),
        ]);
        self::assertStringContainsString(
            'is in EUR',
            $this->uploaded(StatementStandIn::writer('camt053')->write($euro)),
        );
        self::assertSame(0, $this->lineCount());
    }

    /** 1,000.00 then 1,200.00: 200.00 in between are missing, and stay named when it is taken all the same. */
    public function testAnOpeningBalanceThatDoesNotFollow(): void
    {
        $this->take(self::statement([self::line(100_000, 'a', [], '2026-06-10')], 0, '2026-06-10', '2026-06-10'));
        $next = self::statement([self::line(5_000, 'b')], 120_000);
        self::assertStringContainsString('200.00 USD in between are missing', self::said(fn () => $this->take($next)));
        $id = $this->take($next, Overlap::Ask, true);
        self::assertSame(20_000, (int) $this->db()->fetchOne('SELECT gap FROM bank_statement WHERE id = ?', [$id]));
        self::assertStringContainsString(
            '200.00 missing before it',
            $this->page($this->at('?id='.$id))->filter('.head')->text(),
        );
    }

    public function testLinesThatAreThereAreSkippedReplacedOrKept(): void
    {
        $first = $this->take(self::statement([self::line(100_000, 'a'), self::line(5_000, 'b')]));
        $longer = self::statement(
            [self::line(100_000, 'a'), self::line(5_000, 'b'), self::line(700, 'c', [], '2026-06-16')],
            0,
            self::DAY,
            '2026-06-16',
        );
        self::assertStringContainsString(
            '2 of its 3 lines are there already',
            self::said(fn () => $this->take($longer)),
        );
        $second = $this->take($longer, Overlap::Skip);
        self::assertSame(3, $this->lineCount());
        self::assertSame(
            [105_000, 105_700],
            array_map(
                'intval',
                $this->db()->fetchNumeric('SELECT opening, closing FROM bank_statement WHERE id = ?', [$second]) ?: [],
            ),
        );
        // a line of it was placed, and undone: the history needs it
        $choice = new Choice(
            PartKind::Accounts,
            5_000,
            parts: [
                [
                    'account' => '4600',
                    'amount' => 5_000,
                    'tax' => '',
                    'cost_center' => '',
                    'department' => '',
                    'project' => '',
                    'text' => '',
                ],
            ],
        );
        self::get(PlaceLine::class)->place($this->clerk, $this->lineOf(5_000), $choice);
        $whole = self::statement([self::line(100_000, 'a'), self::line(5_000, 'b'), self::line(1, 'd')]);
        self::assertStringContainsString('have been placed', self::said(fn () => $this->take($whole, Overlap::Replace)));
        self::get(UndoLine::class)->undo($this->clerk, $this->lineOf(5_000), 'wrong');
        self::assertStringContainsString('have been placed', self::said(fn () => $this->take($whole, Overlap::Replace)));
        self::assertSame(1, (int) $this->db()->fetchOne('SELECT COUNT(*) FROM bank_statement WHERE id = ?', [$first]));
    }

    public function testAStatementIsReplacedWhileNothingIsPlaced(): void
    {
        $first = $this->take(self::statement([self::line(100_000, 'a'), self::line(5_000, 'b')]));
        $whole = self::statement([self::line(100_000, 'a'), self::line(5_000, 'b'), self::line(1, 'd')]);
        $this->take($whole, Overlap::Replace);
        self::assertSame(
            [3, 0],
            [
                $this->lineCount(),
                (int) $this->db()->fetchOne('SELECT COUNT(*) FROM bank_statement WHERE id = ?', [$first]),
            ],
        );
        $twice = self::statement([self::line(5_000, 'b'), self::line(5_000, 'b')], 105_001);
        self::assertStringContainsString(
            '1 of its 2 lines',
            self::said(fn () => $this->take($twice)),
            'one of them is new',
        );
        $this->take($twice, Overlap::Keep);
        self::assertSame(5, $this->lineCount());
    }

    public function testCsvIsLookedAtFirstAndItsMappingIsKept(): void
    {
        $bytes = "Date,Description,Amount,Balance\n06/12/2026,Rent,-1200.00,300.00\n06/15/2026,Deposit,500.00,800.00\n";
        $page = $this->post($this->at('/new'), $this->at('/file'), [], ['file' => self::upload($bytes, 'bank.csv')]);
        self::assertSame('Date', $page->filter('select[name="columns[day]"] option[selected]')->text());
        self::assertSame('m/d/Y', $page->filter('select[name=days] option[selected]')->attr('value'));
        self::assertStringContainsString('Rent', $page->filter('table.list')->text());
        self::assertSame(0, $this->lineCount());
        $form = $page->filter('#csv')->form();
        $taken = $this->browser->submit($form);
        self::assertTrue($this->browser->getResponse()->isRedirection(), $taken->text());
        self::assertSame(2, $this->lineCount());
        self::assertSame(150_000, (int) $this->db()->fetchOne('SELECT opening FROM bank_statement'));
        // the next file of the bank is read the same way
        self::assertSame(1, (int) $this->db()->fetchOne('SELECT COUNT(*) FROM statement_mapping'));
        $wrong = $this->post($this->at('/new'), $this->at('/csv'), [...$form->getPhpValues(), 'days' => 'd.m.Y']);
        self::assertStringContainsString(
            'Line 2: “06/12/2026” is no day such as 15.06.2026',
            $wrong->filter('.said-refused')->text(),
        );
    }

    public function testTypedOffThePaper(): void
    {
        $row = [
            'day' => '2026-06-12',
            'text' => 'deposit',
            'party' => '',
            'reference' => '',
            'check' => '',
            'amount' => '500',
        ];
        $sent = ['opening' => '100', 'closing' => '550', 'lines' => [$row, ['day' => '13', 'amount' => '-60'] + $row]];
        self::assertStringContainsString(
            'are missing',
            $this->post($this->at('/new'), $this->at('/typed'), $sent)->filter('.said-refused')->text(),
        );
        self::assertSame(0, $this->lineCount());
        $wrong = $this->post(
            $this->at('/new'),
            $this->at('/typed'),
            ['lines' => [['day' => '32', 'amount' => 'x'] + $row]] + $sent,
        );
        self::assertStringContainsString(
            'not an amount',
            $wrong->filter('.wrong')->text().$wrong->filter('.said-refused')->text(),
        );
        self::assertStringContainsString(
            'taken in',
            $this->post($this->at('/new'), $this->at('/typed'), ['closing' => '540'] + $sent)
                ->filter('.said-done')
                ->text(),
        );
        self::assertSame(2, $this->lineCount());
    }

    /** The stand-in's statement of what the books moved is placed to the last line. */
    public function testTheStandInsStatement(): void
    {
        $this->money(Side::Receivables, 50_000, date: '2026-06-02');
        $this->money(Side::Receivables, 70_000, date: '2026-06-03');
        $bank = self::get(StatementStandIn::class);
        $statement = $bank->make($this->bank(), Day::of(self::DAY), false);
        self::assertSame(
            [50_000, 70_000],
            array_map(static fn (StatementLine $l): int => $l->amount, $statement->lines),
        );
        self::get(TakeStatement::class)->take($this->clerk, $this->bank()->id, $statement, 'camt053', 'x');
        foreach ([50_000, 70_000] as $amount) {
            [$options, $sure] = $this->found($amount);
            self::assertTrue($sure);
            self::get(PlaceLine::class)->place($this->clerk, $this->lineOf($amount), $options[0]->choice);
        }
        self::assertSame(120_000, $this->balance('1000'));
        self::assertStringContainsString(
            'nothing newer',
            self::said(fn () => $bank->make($this->bank(), Day::of(self::DAY), false)),
        );
        self::assertSame([], $bank->make($this->bank(), Day::of('2026-06-29'), false)->lines);
        self::assertSame(
            [-1_850, 1_240],
            array_map(
                static fn (StatementLine $l): int => $l->amount,
                $bank->make($this->bank(), Day::of('2026-07-01'), false)->lines,
            ),
        );
    }
}
