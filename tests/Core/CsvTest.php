<?php

declare(strict_types=1);

namespace Nelbix\Tests\Core;

use Nelbix\Core\Formats\Csv;
use Nelbix\Core\Refused;
use PHPUnit\Framework\TestCase;

/** Sources: RFC 4180; commands.md, CSV. */
final class CsvTest extends TestCase
{
    public function testQuotesLineBreaksMarkAndCrlf(): void
    {
        $rows = Csv::read("\xEF\xBB\xBFa,b\r\n\"x, \"\"y\"\"\",\"two\r\nlines\"\r\nlast,\r\n", ['a'], ['b', 'c']);
        self::assertSame(['x, "y"', "two\r\nlines", ''], array_values($rows[0]['row']));
        self::assertSame([2, 4], array_column($rows, 'line'));
        self::assertSame('', $rows[1]['row']['b']);
    }

    public function testSemicolonsWithDecimalComma(): void
    {
        $rows = Csv::read("amount;text\n12,50;3,5 m oak\n", ['amount'], ['text']);
        self::assertSame(['12.50', '3,5 m oak'], array_values($rows[0]['row']));
        $this->expectException(Refused::class);
        Csv::read("amount;text\n12,50;x\n12.50;y\n", ['amount'], ['text']);
    }

    public function testListsEveryProblem(): void
    {
        try {
            Csv::read("a,b\n1\n1,2\n1,2,3\n", ['a', 'b']);
            self::fail('accepted');
        } catch (Refused $e) {
            self::assertSame([2, 4], array_map(static fn ($p): ?int => $p->line, $e->problems));
        }
    }

    public function testRefusesWhatIsNoCsv(): void
    {
        foreach (
            ["a,x\n1,2\n", "b\n1\n", "a,a\n1,2\n", "a\n\"open\n", "a\n\"x\"y\n", "a\n\xFF\n", "a\n\0\n", ''] as $bytes
        ) {
            try {
                Csv::read($bytes, ['a']);
                self::fail(json_encode($bytes).' was accepted');
            } catch (Refused $e) {
                self::assertNotSame('', $e->getMessage());
            }
        }
    }

    /** A file of 64 MB may hold fields and rows that no memory holds; both are counted as they are read. */
    public function testFieldsAndRowsAreCounted(): void
    {
        foreach (
            [
                str_repeat(',', Csv::MAX_FIELDS + 1) => 'at most 500 fields',
                "a\n".str_repeat("1\n", Csv::MAX_ROWS + 1) => 'at most 500000 rows',
            ] as $bytes => $said
        ) {
            try {
                Csv::read($bytes, ['a']);
                self::fail('It was taken.');
            } catch (Refused $e) {
                self::assertStringContainsString($said, $e->getMessage());
            }
        }
        self::assertCount(3, Csv::read("a\n1\n2\n3\n", ['a']));
    }
}
