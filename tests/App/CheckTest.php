<?php

declare(strict_types=1);

namespace Nelbix\Tests\App;

use Nelbix\App\Bank\SaveCheckBook;
use Nelbix\App\Banking\PrintChecks;
use Nelbix\App\Banking\SendToPrinter;
use Nelbix\App\Banking\VoidCheck;
use Nelbix\App\Books\AdjustmentRequest;
use Nelbix\App\Books\PlacementRequest;
use Nelbix\App\Payables\CriteriaReader;
use Nelbix\App\Payables\DecideProposal;
use Nelbix\App\Payables\MakeProposal;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Ledger\Side;

/** Checks: the printer and its jam, void and stop, books, alignment, the file of issued checks. */
final class CheckTest extends ScreenCase
{
    private int $book;

    /** @return int an approved run of so many checks, printed from 1001 on */
    private function printed(int $checks): int
    {
        $this->db()->executeStatement("UPDATE party SET separate_payments = 1 WHERE code = 'V-1'");
        for ($n = 0; $n < $checks; ++$n) {
            $this->invoice(Side::Payables, '100.00', ['document_date' => '2026-04-01', 'terms' => 'N30']);
        }
        ['criteria' => $criteria, 'bankAccountId' => $bank, 'method' => $method] = self::get(
            CriteriaReader::class,
        )->read($this->clerk, ['pay_date' => self::DAY]);
        $id = self::get(MakeProposal::class)->make($this->clerk, $criteria, $bank, $method);
        self::get(DecideProposal::class)->decide($this->approver, $id, true);
        $this->book = (int) $this->db()->fetchOne('SELECT id FROM check_book WHERE bank_account_id = ?', [$bank]);
        self::get(PrintChecks::class)->print($this->clerk, $id, $this->book, 1001);

        return $id;
    }

    /** @return list<string> */
    private function register(): array
    {
        /** @var list<string> */
        return $this->db()->fetchFirstColumn("SELECT CONCAT(number, ' ', state) FROM bank_check ORDER BY number");
    }

    /** A jam at check 3 of 6: two came out, the third is spoiled and gets the next number, the others keep theirs. */
    public function testAJamAtTheThirdOfSix(): void
    {
        $id = $this->printed(6);
        $tell = fn (string $page): string => $this->post('/TEST/bank', '/TEST/bank/printer', ['page' => $page])
            ->filter('.said-done, .said-refused')
            ->text();
        self::assertStringContainsString('Give the number of a page', $tell('-1'));
        self::assertStringContainsString('jam at page 3', $tell('3'));
        $printer = self::get(SendToPrinter::class);
        self::assertSame([], $printer->outcome($id));
        self::assertSame(['pages' => 6, 'came' => 2, 'jammed' => 3], $printer->send($this->clerk, $id));
        self::assertSame(
            [
                1001 => 'out',
                1002 => 'out',
                1003 => 'spoiled',
                1004 => 'not printed',
                1005 => 'not printed',
                1006 => 'not printed',
            ],
            $printer->outcome($id),
        );
        $page = $this->browser->request('GET', '/TEST/payables/proposal/'.$id);
        self::assertSame(
            ['1003'],
            $page
                ->filter('input[name="spoiled[]"][checked]')
                ->each(static fn ($i): string => (string) $i->attr('value')),
        );
        self::assertSame(
            ['1004', '1005', '1006'],
            $page->filter('input[name="blank[]"][checked]')->each(static fn ($i): string => (string) $i->attr('value')),
        );
        self::assertSame(
            4,
            self::get(PrintChecks::class)->sayWhatPrinted($this->clerk, $id, [1003], 'jammed', [1004, 1005, 1006]),
        );
        self::assertSame(
            [
                '1001 printed',
                '1002 printed',
                '1003 spoiled',
                '1004 reserved',
                '1005 reserved',
                '1006 reserved',
                '1007 reserved',
            ],
            $this->register(),
        );
        self::assertSame([''], self::refusedFields(fn () => $this->postRun($id)), 'not while some wait');
        self::assertSame(
            ['pages' => 4, 'came' => 4, 'jammed' => null],
            $printer->send($this->clerk, $id),
            'it jams once',
        );
        self::assertSame(0, self::get(PrintChecks::class)->sayWhatPrinted($this->clerk, $id, [], ''));
        self::assertSame(6, $this->postRun($id));
        self::assertSame(
            ['1001 issued', '1002 issued', '1003 spoiled', '1004 issued', '1005 issued', '1006 issued', '1007 issued'],
            $this->register(),
        );
        self::assertSame(-60000, $this->balance('1000'));
    }

    public function testTheClerksWordCountsMoreThanThePrinters(): void
    {
        $id = $this->printed(2);
        self::get(SendToPrinter::class)->send($this->clerk, $id);
        self::assertSame(1, self::get(PrintChecks::class)->sayWhatPrinted($this->clerk, $id, [1002], 'smeared'));
        self::assertSame(
            ['spoiled'],
            self::refusedFields(
                fn () => self::get(PrintChecks::class)->sayWhatPrinted($this->clerk, $id, [], '', [1001]),
            ),
            'that one came out already',
        );
        self::assertSame(['1001 printed', '1002 spoiled', '1003 reserved'], $this->register());
    }

    public function testVoidAndStopOpenEverythingAgainAndTheIssuedFileSaysSo(): void
    {
        $id = $this->printed(3);
        self::get(PrintChecks::class)->sayWhatPrinted($this->clerk, $id, [], '');
        $this->postRun($id);
        $void = self::get(VoidCheck::class);
        $day = Day::of('2026-06-18');
        self::assertSame(
            ['reason'],
            self::refusedFields(fn () => $void->void($this->clerk, $this->book, 1001, $day, ' ', false)),
        );
        self::assertSame(
            ['number'],
            self::refusedFields(fn () => $void->void($this->clerk, $this->book, 1009, $day, 'x', false)),
        );
        self::assertSame(
            ['date'],
            self::refusedFields(
                fn () => $void->void($this->clerk, $this->book, 1001, Day::of('2026-06-14'), 'x', false),
            ),
            'never before the money',
        );
        $void->void($this->clerk, $this->book, 1001, $day, 'lost', false);
        $void->void($this->clerk, $this->book, 1002, $day, 'stolen', true);
        self::assertSame(
            ['number'],
            self::refusedFields(fn () => $void->void($this->clerk, $this->book, 1001, $day, 'again', false)),
        );
        $this->db()->executeStatement("UPDATE bank_check SET state = 'cleared' WHERE number = 1003");
        self::assertSame(
            ['number'],
            self::refusedFields(fn () => $void->void($this->clerk, $this->book, 1003, $day, 'late', false)),
            'a cleared check cannot be voided',
        );
        self::assertSame(['1001 voided', '1002 stopped', '1003 cleared'], $this->register());
        self::assertSame(
            [-10000, -20000],
            [$this->balance('1000'), (int) $this->db()->fetchOne('SELECT -SUM(open) FROM open_item')],
        );
        $this->browser->request('GET', '/TEST/bank/register/'.$this->book.'/issued');
        $lines = explode("\r\n", trim($this->browser->getInternalResponse()->getContent()));
        self::assertSame(
            [
                'account,number,date,amount,currency,payee,state',
                '1000,1001,2026-06-15,100.00,USD,"Fenwick Timber",void',
                '1000,1002,2026-06-15,100.00,USD,"Fenwick Timber",void',
                '1000,1003,2026-06-15,100.00,USD,"Fenwick Timber",issued',
            ],
            $lines,
        );
        $said = $this->post('/TEST/bank/register/'.$this->book, '/TEST/bank/register/'.$this->book.'/void', [
            'number' => '1002',
            'reason' => 'x',
            '_action' => 'void',
        ]);
        self::assertStringContainsString('only an issued check is voided', $said->filter('.said-refused')->text());
    }

    public function testSeveralBooksOfAnAccountAndTheirAlignment(): void
    {
        $id = $this->printed(1);
        $bank = (int) $this->db()->fetchOne('SELECT bank_account_id FROM check_book WHERE id = ?', [$this->book]);
        $save = self::get(SaveCheckBook::class);
        self::assertSame(
            ['name', 'first_number'],
            self::refusedFields(fn () => $save->add($this->clerk, $bank, ['name' => '', 'first_number' => '0'])),
        );
        self::assertSame(
            ['first_number'],
            self::refusedFields(
                fn () => $save->add($this->clerk, $bank, ['name' => 'Second', 'first_number' => '1100']),
            ),
            'the first book may still need it',
        );
        $second = $save->add($this->clerk, $bank, ['name' => 'Second', 'first_number' => '9001']);
        foreach (['x', '-31', '4.5'] as $wrong) {
            self::assertSame(
                ['offset_x'],
                self::refusedFields(
                    fn () => $save->align($this->clerk, $second, ['offset_x' => $wrong, 'offset_y' => '0']),
                ),
            );
        }
        $save->align($this->clerk, $second, ['offset_x' => '-3', 'offset_y' => '5']);
        $this->browser->request('GET', '/TEST/bank/register/'.$second.'/test.pdf');
        self::assertStringStartsWith('%PDF', (string) $this->browser->getResponse()->getContent());
        self::assertStringContainsString(
            'Second',
            $this->browser->request('GET', '/TEST/bank')->filter('main')->text(),
        );
        $vendor = (int) $this->db()->fetchOne("SELECT id FROM party WHERE code = 'V-1'");
        $payment = $this->money(Side::Payables, 100, [], [], self::DAY, \Nelbix\Core\Ledger\DocumentKind::Payment);
        self::get(\Nelbix\App\Platform\Transaction::class)->run(
            fn () => self::get(\Nelbix\App\Bank\HandChecks::class)->issue(
                $bank,
                '9001',
                $vendor,
                $payment,
                100,
                Day::of(self::DAY),
            ),
        );
        self::assertSame(['1001 reserved', '9001 issued'], $this->register(), 'a number finds its book');
        self::assertSame(1, self::get(PrintChecks::class)->sayWhatPrinted($this->clerk, $id, [1001], ''));
    }

    public function testRemittanceAdviceOnPaperAsAListAndByMail(): void
    {
        $id = $this->printed(2);
        $discounted = $this->invoice(Side::Payables, '1000.00', ['number' => 'THEIRS-7']);
        self::get(PrintChecks::class)->sayWhatPrinted($this->clerk, $id, [], '');
        $this->postRun($id);
        $payment = $this->money(
            Side::Payables,
            100000,
            [new PlacementRequest($this->itemOf($discounted), 100000)],
            [
                new AdjustmentRequest(
                    $this->itemOf($discounted),
                    \Nelbix\Core\Settlement\AdjustmentKind::Discount,
                    -2000,
                ),
            ],
            self::DAY,
            \Nelbix\Core\Ledger\DocumentKind::Payment,
        );
        $advice = self::get(\Nelbix\App\Payables\RemittanceAdvice::class)->of($this->clerk->companyId, [$payment])[0];
        self::assertSame(
            [['THEIRS-7', 100000, 2000, 98000], 2000],
            [
                [
                    $advice['lines'][0]['their_number'],
                    $advice['lines'][0]['applied'],
                    $advice['lines'][0]['discount'],
                    $advice['lines'][0]['paid'],
                ],
                $advice['unapplied'],
            ],
        );
        $this->browser->request('GET', '/TEST/payables/remittance.pdf?run='.$id);
        self::assertStringStartsWith('%PDF', (string) $this->browser->getResponse()->getContent());
        $this->browser->request('GET', '/TEST/payables/remittance?format=csv&run='.$id);
        self::assertSame(3, substr_count($this->browser->getInternalResponse()->getContent(), "\r\n"));
        $send = fn (array $fields): string => $this->post(
            '/TEST/payables/proposal/'.$id,
            '/TEST/payables/remittance/send',
            ['run' => (string) $id, ...$fields],
        )
            ->filter('.said-done, .said-refused')
            ->text();
        self::assertStringContainsString('No address is known for Fenwick Timber (V-1)', $send([]));
        self::assertSame(0, (int) $this->db()->fetchOne('SELECT COUNT(*) FROM outbox'));
        $this->db()->executeStatement("UPDATE party SET email = 'a@b.example' WHERE code = 'V-1'");
        self::assertStringContainsString('2 messages are sent', $send([]));
        self::assertCount(2, $this->browser->request('GET', '/TEST/payables/outbox')->filter('table.list tbody tr'));
        self::assertCount(
            0,
            $this->browser->request('GET', '/TEST/receivables/outbox')->filter('table.list tbody tr'),
            'the other side has its own',
        );
        $this->as('receivables');
        $this->browser->request(
            'GET',
            '/TEST/payables/outbox/'.$this->db()->fetchOne('SELECT MAX(id) FROM outbox').'.eml',
        );
        self::assertSame(403, $this->browser->getResponse()->getStatusCode());
    }

    /** Over a range of amounts, against a library that is not ours. */
    public function testAmountsInWordsAgainstAReferenceLibrary(): void
    {
        mt_srand(9);
        $numbers = [0, 1, 10, 11, 19, 20, 21, 99, 100, 101, 110, 999, 1000, 1001, 1021, 999_999, 1_000_000];
        for ($n = 0; $n < 400; ++$n) {
            $numbers[] = mt_rand(0, 10 ** mt_rand(1, 9));
        }
        $process = new \Symfony\Component\Process\Process(
            ['node', __DIR__.'/words.cjs'],
            \dirname(__DIR__, 2),
            null,
            implode("\n", $numbers),
        );
        $process->mustRun();
        foreach (array_combine($numbers, explode("\n", $process->getOutput())) as $number => $words) {
            self::assertSame(
                ucfirst($words).' and 07/100',
                \Nelbix\Core\Formats\AmountInWords::of(\Nelbix\Core\Money\Money::of($number * 100 + 7, 'USD')),
            );
        }
    }
}
