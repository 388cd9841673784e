<?php

declare(strict_types=1);

namespace Nelbix\Tests\Core;

use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Formats\Statement\Bai2Reader;
use Nelbix\Core\Formats\Statement\Bai2Writer;
use Nelbix\Core\Formats\Statement\BankStatement;
use Nelbix\Core\Formats\Statement\Camt053Reader;
use Nelbix\Core\Formats\Statement\Camt053Writer;
use Nelbix\Core\Formats\Statement\CsvMapping;
use Nelbix\Core\Formats\Statement\CsvStatementReader;
use Nelbix\Core\Formats\Statement\CsvStatementWriter;
use Nelbix\Core\Formats\Statement\Mt940Reader;
use Nelbix\Core\Formats\Statement\Mt940Writer;
use Nelbix\Core\Formats\Statement\OfxReader;
use Nelbix\Core\Formats\Statement\OfxWriter;
use Nelbix\Core\Formats\Statement\StatementLine;
use Nelbix\Core\Formats\Statement\StatementReader;
use Nelbix\Core\Formats\Statement\StatementWriter;
use Nelbix\Core\Problem;
use Nelbix\Core\Refused;
use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\TestCase;

/** What the stand-in writes is read back as it was, as far as the format has a place for it; and CSV by a mapping. */
final class StatementWriterTest extends TestCase
{
    public const CSV_COLUMNS = [
        'day' => 'date',
        'value' => 'value date',
        'amount' => 'amount',
        'balance' => 'balance',
        'party' => 'name',
        'account' => 'account',
        'text' => 'text',
        'reference' => 'reference',
        'bank_reference' => 'bank ref',
        'check' => 'check',
    ];

    public static function statement(): BankStatement
    {
        $day = Day::of('2026-06-12');
        $next = Day::of('2026-06-15');

        return new BankStatement('20260615', 'DK5000400440116243', 'EUR', $day, $next, -5_000, 114_190, [
            new StatementLine($day, $day, -1_850, 'ACCOUNT SERVICE FEE', bankReference: 'B1'),
            new StatementLine($day, $day, -24_010, 'CHECK 1571', bankReference: 'B2', check: '1571'),
            new StatementLine(
                $next,
                $next,
                125_050,
                'invoice 5, thank you',
                'RF18539007547034',
                'B3',
                'Kittiwake Yacht Club',
                'NL91ABNA0417164300',
            ),
            new StatementLine($next, $next, 20_000, 'BACK PY-26-00412', bankReference: 'B4', reversal: true),
        ]);
    }

    public static function csv(): string
    {
        return (new CsvStatementWriter())->write(self::statement());
    }

    /** @return iterable<string, array{StatementWriter, StatementReader}> */
    public static function formats(): iterable
    {
        yield 'camt.053' => [new Camt053Writer(), new Camt053Reader()];
        yield 'MT940' => [new Mt940Writer(), new Mt940Reader()];
        yield 'BAI2' => [new Bai2Writer(), new Bai2Reader()];
        yield 'OFX' => [new OfxWriter(), new OfxReader()];
        yield 'CSV' => [new CsvStatementWriter(), new CsvStatementReader(new CsvMapping(self::CSV_COLUMNS), 'EUR')];
    }

    #[DataProvider('formats')]
    public function testWhatIsWrittenIsReadBack(StatementWriter $writer, StatementReader $reader): void
    {
        $statement = self::statement();
        $bytes = $writer->write($statement);
        self::assertTrue($reader->knows($bytes));
        [$read] = $reader->read($bytes);
        self::assertSame([$statement->opening, $statement->closing], [$read->opening, $read->closing]);
        $of = static fn (BankStatement $s, string $field): array => array_map(
            static fn (StatementLine $l): mixed => $l->{$field},
            $s->lines,
        );
        foreach (['amount', 'check', 'bankReference'] as $field) {
            self::assertSame($of($statement, $field), $of($read, $field), $field);
        }
        self::assertStringContainsString('invoice 5', $read->lines[2]->text);
        self::assertStringContainsString('RF18539007547034', $read->lines[2]->reference);
    }

    /** What camt.053 and MT940 say of who paid and of what is taken back, the others have no place for. */
    public function testPartyAccountAndReversal(): void
    {
        foreach (
            [[new Camt053Writer(), new Camt053Reader()], [new Mt940Writer(), new Mt940Reader()]] as [$writer, $reader]
        ) {
            $line = $reader->read($writer->write(self::statement()))[0]->lines[2];
            self::assertSame(['Kittiwake Yacht Club', 'NL91ABNA0417164300'], [$line->party, $line->account]);
            self::assertTrue($reader->read($writer->write(self::statement()))[0]->lines[3]->reversal);
        }
    }

    /** @return iterable<string, array{string, array<string, mixed>, list<int>, int}> file, mapping, amounts, opening */
    public static function csvFiles(): iterable
    {
        $in = [
            'columns' => [
                'day' => 'Date',
                'in' => 'Credit',
                'out' => 'Debit',
                'text' => 'Description',
                'balance' => 'Balance',
            ],
            'days' => 'm/d/Y',
            'decimal' => '.',
        ];
        yield 'two columns, newest first' => [
            "Date,Description,Debit,Credit,Balance\n06/15/2026,Rent,\"1,200.00\",,300.00\n06/12/2026,Deposit,,500.00,\"1,500.00\"\n",
            $in,
            [50_000, -120_000],
            100_000,
        ];
        yield 'semicolons, decimal commas, brackets' => [
            "Buchung;Text;Betrag;Saldo\r\n12.06.2026;Miete;(1.200,00);-200,00\r\n15.06.2026;Zahlung;500,00;300,00\r\n",
            [
                'columns' => ['day' => 'Buchung', 'amount' => 'Betrag', 'text' => 'Text', 'balance' => 'Saldo'],
                'days' => 'd.m.Y',
                'decimal' => ',',
            ],
            [-120_000, 50_000],
            100_000,
        ];
        yield 'one day, newest first, by its balances' => [
            "day,amount,balance\n2026-06-12,5.00,12.00\n2026-06-12,-3.00,7.00\n2026-06-12,10.00,10.00\n",
            [
                'columns' => ['day' => 'day', 'amount' => 'amount', 'balance' => 'balance'],
                'days' => 'Y-m-d',
                'decimal' => '.',
            ],
            [1_000, -300, 500],
            0,
        ];
        yield 'what goes out is above zero, a minus behind' => [
            "day,amount,balance\n2026-06-12,5.00,-5.00\n2026-06-13,8.00-,3.00\n",
            [
                'columns' => ['day' => 'day', 'amount' => 'amount', 'balance' => 'balance'],
                'days' => 'Y-m-d',
                'decimal' => '.',
                'turned' => '1',
            ],
            [-500, 800],
            0,
        ];
    }

    /**
     * @param array<string, mixed> $mapping
     * @param list<int> $amounts
     */
    #[DataProvider('csvFiles')]
    public function testCsvByItsMapping(string $bytes, array $mapping, array $amounts, int $opening): void
    {
        [$s] = (new CsvStatementReader(CsvMapping::of($mapping), 'USD'))->read($bytes);
        self::assertSame($amounts, array_map(static fn (StatementLine $l): int => $l->amount, $s->lines));
        self::assertSame([$opening, $opening + array_sum($amounts)], [$s->opening, $s->closing]);
    }

    public function testColumnsAreGuessed(): void
    {
        $guess = CsvMapping::guess(
            CsvMapping::firstRows(
                "Posting date,Description,Amount,Running balance,Cheque\n06/15/2026,Rent,-5.00,1.00,\n",
            ),
        );
        self::assertSame(
            [
                'day' => 'Posting date',
                'text' => 'Description',
                'amount' => 'Amount',
                'balance' => 'Running balance',
                'check' => 'Cheque',
            ],
            $guess->columns,
        );
        self::assertSame(['m/d/Y', '.'], [$guess->days, $guess->decimal]);
        self::assertSame(',', CsvMapping::guess(CsvMapping::firstRows("Datum;Betrag\n15.06.2026;-5,00\n"))->decimal);
    }

    public function testEveryWrongLineIsNamed(): void
    {
        try {
            (new CsvStatementReader(
                CsvMapping::of(['columns' => ['day' => 'd', 'amount' => 'a'], 'days' => 'Y-m-d', 'decimal' => '.']),
                'USD',
                0,
            ))->read("d,a\n2026-02-30,1.00\n2026-06-12,abc\n2026-06-12,1.234\n2026-06-12,5.00\n");
            self::fail('It was taken.');
        } catch (Refused $e) {
            self::assertSame(
                [['day', 2], ['amount', 3], ['amount', 4]],
                array_map(static fn (Problem $p): array => [$p->field, $p->line], $e->problems),
            );
        }
    }

    /** @return iterable<string, array{array<string, mixed>, string, string}> mapping, file, what is said */
    public static function wrongCsv(): iterable
    {
        $ok = ['columns' => ['day' => 'd', 'amount' => 'a'], 'days' => 'Y-m-d', 'decimal' => '.'];
        yield 'no day' => [['columns' => ['amount' => 'a']] + $ok, '', 'which column holds the day'];
        yield 'no amount' => [['columns' => ['day' => 'd', 'in' => 'a']] + $ok, '', 'which column holds the amount'];
        yield 'another heading' => [$ok, "d,b\n2026-06-12,1.00\n", 'no column “a”'];
        yield 'no balance' => [$ok, "d,a\n2026-06-12,1.00\n", 'type the balance that it opens with'];
        yield 'nothing below' => [$ok, "d,a\n", 'no line below'];
        yield 'balances that do not follow' => [
            ['columns' => ['day' => 'd', 'amount' => 'a', 'balance' => 'b']] + $ok,
            "d,a,b\n2026-06-12,1.00,1.00\n2026-06-13,1.00,3.00\n",
            'are missing',
        ];
    }

    /** @param array<string, mixed> $mapping */
    #[DataProvider('wrongCsv')]
    public function testWhatCannotBeReadIsSaid(array $mapping, string $bytes, string $said): void
    {
        $this->expectException(Refused::class);
        $this->expectExceptionMessage($said);
        (new CsvStatementReader(CsvMapping::of($mapping), 'USD'))->read($bytes);
    }
}
