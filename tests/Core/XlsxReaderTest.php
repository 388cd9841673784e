<?php

declare(strict_types=1);

namespace Nelbix\Tests\Core;

use Nelbix\Core\Formats\Xlsx;
use Nelbix\Core\Formats\XlsxReader;
use Nelbix\Core\Refused;
use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\TestCase;

/** Rows of a sheet. Source: ECMA-376 part 1, 18.3.1.4 cells, 18.4.8 shared texts. */
final class XlsxReaderTest extends TestCase
{
    private const MAIN = 'http://schemas.openxmlformats.org/spreadsheetml/2006/main';

    private static function sheet(string $rows): string
    {
        return '<?xml version="1.0" encoding="UTF-8"?><worksheet xmlns="'.
            self::MAIN.
            "\"><sheetData>$rows</sheetData></worksheet>";
    }

    public function testWhatNelbixWritesIsReadBack(): void
    {
        $rows = [['CI-26-00301', '2026-06-01', '1250.50', 'x & y <z>'], ['CI-26-00302', '', '-3.00', '']];
        $sheet = implode('', iterator_to_array(Xlsx::sheet(['Number', 'Dated', 'Open', 'Pay'], $rows), false));
        $read = XlsxReader::rows($sheet, '');
        self::assertSame(['Number', 'Dated', 'Open', 'Pay'], $read[0]);
        self::assertSame(['CI-26-00301', '1250.50', 'x & y <z>'], [$read[1][0], $read[1][2], $read[1][3]]);
        self::assertSame('CI-26-00302', $read[2][0]);
    }

    public function testSharedTextsRunsAndGaps(): void
    {
        $shared =
            '<?xml version="1.0"?><sst xmlns="'.
            self::MAIN.
            '"><si><t>Number</t></si><si><r><t>CI-</t></r><r><t>1</t></r></si></sst>';
        $sheet = self::sheet(
            '<row r="1"><c r="A1" t="s"><v>0</v></c><c r="C1" t="inlineStr"><is><t>Pay</t></is></c></row>'.
                '<row r="2"><c r="A2" t="s"><v>1</v></c><c r="C2"><v>12.5</v></c><c r="D2" t="s"><v>99</v></c></row>',
        );
        self::assertSame([['Number', '', 'Pay'], ['CI-1', '', '12.5', '']], XlsxReader::rows($sheet, $shared));
    }

    /** @return iterable<string, array{string}> */
    public static function hostile(): iterable
    {
        yield 'no XML' => ['PK'];
        yield 'a document type' => ['<!DOCTYPE x [<!ENTITY a "b">]>'.self::sheet('<row/>')];
        yield 'too many rows' => [self::sheet(str_repeat('<row/>', 10_001))];
    }

    #[DataProvider('hostile')]
    public function testHostileSheetsAreRefused(string $sheet): void
    {
        $this->expectException(Refused::class);
        XlsxReader::rows($sheet, '');
    }

    public function testAColumnFarOutIsLeftAlone(): void
    {
        self::assertSame(
            [['a']],
            XlsxReader::rows(
                self::sheet('<row><c r="A1" t="inlineStr"><is><t>a</t></is></c><c r="ZZZ1"><v>1</v></c></row>'),
                '',
            ),
        );
    }
}
