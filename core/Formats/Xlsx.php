<?php

declare(strict_types=1);

namespace Nelbix\Core\Formats;

use Brick\Math\BigDecimal;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Refused;

/** The parts of a workbook with one sheet. Source: ECMA-376, Office Open XML, SpreadsheetML; the zip around them is the caller's. */
final class Xlsx
{
    private const HEAD = '<?xml version="1.0" encoding="UTF-8" standalone="yes"?>'."\n";
    private const MAIN = 'http://schemas.openxmlformats.org/spreadsheetml/2006/main';
    private const PACKAGE = 'http://schemas.openxmlformats.org/package/2006';
    private const OFFICE = 'http://schemas.openxmlformats.org/officeDocument/2006/relationships';
    private const TYPE = 'application/vnd.openxmlformats-officedocument.spreadsheetml.';

    /** The part that holds the rows; sheet() gives it piece by piece, so that a long list need not stand in memory. */
    public const SHEET = 'xl/worksheets/sheet1.xml';

    /**
     * The sheet as XML, in pieces. Decimals with a point and integers become numbers, ISO dates dates, everything else text. The head
     * stays in sight; under the rows stand the totals of those columns that may add up and hold decimals, of one currency.
     *
     * @param list<string> $header
     * @param iterable<list<string|int>> $rows
     * @param list<int> $widths of the columns, in characters; none leaves them to the program
     * @param list<int> $sums columns that may add up
     *
     * @return \Generator<int, string>
     */
    public static function sheet(array $header, iterable $rows, array $widths = [], array $sums = []): \Generator
    {
        yield self::HEAD.
            '<worksheet xmlns="'.
            self::MAIN.
            '"><sheetViews><sheetView workbookViewId="0"><pane ySplit="1" topLeftCell="A2" '.
            'activePane="bottomLeft" state="frozen"/></sheetView></sheetViews>'.
            self::columns($widths).
            '<sheetData>';
        $n = 1;
        yield self::row($n, array_map(static fn (string $h): string => self::text($h, 1), $header));
        $totals = $currencies = [];
        $currency = array_search('currency', array_map(strtolower(...), $header), true);
        foreach ($rows as $row) {
            yield self::row(++$n, array_map(self::cell(...), $row));
            foreach ($sums as $k) {
                $cell = (string) ($row[$k] ?? '');
                if (1 === preg_match('/\A-?\d{1,15}\.\d+\z/', $cell)) {
                    $totals[$k] = BigDecimal::of($cell)->plus($totals[$k] ?? 0);
                }
            }
            if (false !== $currency) {
                $currencies[(string) ($row[$currency] ?? '')] = true;
            }
        }
        $last = $n;
        if ([] !== $totals && \count($currencies) < 2) {
            yield self::row(++$n, self::totals($totals, $last));
        }
        yield '</sheetData><autoFilter ref="A1:'.
            self::column(max(1, \count($header)) - 1).
            $last.
            '"/></worksheet>';
    }

    /** @param list<int> $widths */
    private static function columns(array $widths): string
    {
        $columns = '';
        foreach ($widths as $k => $width) {
            $columns .= \sprintf('<col min="%1$d" max="%1$d" width="%2$d" customWidth="1"/>', $k + 1, $width);
        }

        return '' === $columns ? '' : '<cols>'.$columns.'</cols>';
    }

    /**
     * Totals that follow the filter of the sheet, with what they come to without one.
     *
     * @param non-empty-array<int, BigDecimal> $totals by column
     *
     * @return list<string> cells
     */
    private static function totals(array $totals, int $last): array
    {
        $cells = array_fill(0, max(array_keys($totals)) + 1, '');
        if (!isset($totals[0])) {
            $cells[0] = self::text('Total', 1);
        }
        foreach ($totals as $k => $total) {
            $cells[$k] = \sprintf(
                "<c r=\"\0\" s=\"4\"><f>SUBTOTAL(109,%1\$s2:%1\$s%2\$d)</f><v>%3\$s</v></c>",
                self::column($k),
                $last,
                $total,
            );
        }

        return array_values($cells);
    }

    /** @return array<string, string> the other parts, XML by name in the package */
    public static function parts(string $sheet): array
    {
        return [
            '[Content_Types].xml' => self::HEAD.
                '<Types xmlns="'.
                self::PACKAGE.
                '/content-types"><Default Extension="rels" '.
                'ContentType="application/vnd.openxmlformats-package.relationships+xml"/><Default Extension="xml" '.
                'ContentType="application/xml"/><Override PartName="/xl/workbook.xml" ContentType="'.
                self::TYPE.
                'sheet.main+xml"/><Override PartName="/xl/worksheets/sheet1.xml" ContentType="'.
                self::TYPE.
                'worksheet+xml"/><Override PartName="/xl/styles.xml" ContentType="'.
                self::TYPE.
                'styles+xml"/></Types>',
            '_rels/.rels' => self::HEAD.
                '<Relationships xmlns="'.
                self::PACKAGE.
                '/relationships"><Relationship Id="rId1" Type="'.
                self::OFFICE.
                '/officeDocument" Target="xl/workbook.xml"/></Relationships>',
            'xl/workbook.xml' => self::HEAD.
                '<workbook xmlns="'.
                self::MAIN.
                '" xmlns:r="'.
                self::OFFICE.
                '"><sheets><sheet name="'.
                self::escape(self::sheetName($sheet)).
                '" sheetId="1" r:id="rId1"/></sheets></workbook>',
            'xl/_rels/workbook.xml.rels' => self::HEAD.
                '<Relationships xmlns="'.
                self::PACKAGE.
                '/relationships"><Relationship Id="rId1" Type="'.
                self::OFFICE.
                '/worksheet" Target="worksheets/sheet1.xml"/><Relationship Id="rId2" Type="'.
                self::OFFICE.
                '/styles" Target="styles.xml"/></Relationships>',
            'xl/styles.xml' => self::HEAD.
                '<styleSheet xmlns="'.
                self::MAIN.
                '"><fonts count="2"><font><sz val="11"/><name val="Calibri"/></font><font><b/><sz val="11"/><name '.
                'val="Calibri"/></font></fonts><fills count="2"><fill><patternFill '.
                'patternType="none"/></fill><fill><patternFill patternType="gray125"/></fill></fills><borders '.
                'count="1"><border><left/><right/><top/><bottom/><diagonal/></border></borders><cellStyleXfs '.
                'count="1"><xf numFmtId="0" fontId="0" fillId="0" borderId="0"/></cellStyleXfs><cellXfs '.
                'count="5"><xf numFmtId="0" fontId="0" fillId="0" borderId="0" xfId="0"/><xf numFmtId="0" fontId="1" '.
                'fillId="0" borderId="0" xfId="0" applyFont="1"/><xf numFmtId="4" fontId="0" fillId="0" borderId="0" '.
                'xfId="0" applyNumberFormat="1"/><xf numFmtId="14" fontId="0" fillId="0" borderId="0" xfId="0" '.
                'applyNumberFormat="1"/><xf numFmtId="4" fontId="1" fillId="0" borderId="0" xfId="0" applyNumberFormat="1" '.
                'applyFont="1"/></cellXfs></styleSheet>',
        ];
    }

    /** @param list<string> $cells XML with %s where the cell's reference goes */
    private static function row(int $n, array $cells): string
    {
        $xml = '';
        foreach ($cells as $k => $cell) {
            $xml .= '' === $cell ? '' : str_replace("\0", self::column($k).$n, $cell);
        }

        return '<row r="'.$n.'">'.$xml.'</row>';
    }

    private static function cell(string|int $value): string
    {
        if (\is_int($value)) {
            return "<c r=\"\0\"><v>".$value.'</v></c>';
        }
        if (1 === preg_match('/\A-?\d{1,15}\.\d+\z/', $value)) {
            return "<c r=\"\0\" s=\"2\"><v>".$value.'</v></c>';
        }
        if (1 === preg_match('/\A\d{4}-\d\d-\d\d\z/', $value)) {
            try {
                // day 1 is 1 January 1900 and day 60 a day that never was, so from March 1900 on the count starts at 30 December 1899
                $serial = Day::of('1900-03-01')->daysUntil(Day::of($value)) + 61;

                return $serial < 61 ? self::text($value) : "<c r=\"\0\" s=\"3\"><v>".$serial.'</v></c>';
            } catch (Refused) {
                return self::text($value);
            }
        }

        return '' === $value ? '' : self::text($value);
    }

    private static function text(string $value, int $style = 0): string
    {
        return "<c r=\"\0\" t=\"inlineStr\"".
            (0 === $style ? '' : ' s="'.$style.'"').
            '><is><t xml:space="preserve">'.
            self::escape($value).
            '</t></is></c>';
    }

    /** What XML 1.0 cannot hold is left out. */
    private static function escape(string $text): string
    {
        return htmlspecialchars(
            (string) preg_replace(
                '/[^\x{9}\x{A}\x{D}\x{20}-\x{D7FF}\x{E000}-\x{FFFD}\x{10000}-\x{10FFFF}]/u',
                '',
                mb_scrub($text),
            ),
            \ENT_XML1 | \ENT_QUOTES,
        );
    }

    private static function sheetName(string $name): string
    {
        return mb_substr((string) preg_replace('/[\[\]:*?\/\\\\]/', ' ', $name), 0, 31);
    }

    private static function column(int $k): string
    {
        return ($k >= 26 ? self::column(intdiv($k, 26) - 1) : '').\chr(65 + ($k % 26));
    }
}
