<?php

declare(strict_types=1);

namespace Nelbix\Core\Formats;

use Nelbix\Core\Refused;

/**
 * Reads the rows of a workbook's sheet from its parts; the zip around them is the caller's. Source: ECMA-376, Office Open XML,
 * SpreadsheetML: cells with an own text, with one of the shared texts, and numbers as they are written.
 */
final class XlsxReader
{
    public const SHARED = 'xl/sharedStrings.xml';
    public const MOST_BYTES = 8_000_000;

    /** A sheet names its columns up to here; more is no list of open items. */
    private const MOST_COLUMNS = 100;
    private const MOST_ROWS = 10_000;

    /**
     * @param string $sheet the part xl/worksheets/sheet1.xml
     * @param string $shared the part with the shared texts; '' when there is none
     *
     * @return list<list<string>> cells of each row, empty ones too
     *
     * @throws Refused when a part is no such XML or too large
     */
    public static function rows(string $sheet, string $shared): array
    {
        $texts = '' === $shared ? [] : self::texts($shared);
        $rows = [];
        foreach (self::load($sheet)->getElementsByTagNameNS('*', 'row') as $row) {
            if (\count($rows) >= self::MOST_ROWS) {
                throw Refused::because('file', \sprintf('The sheet has more than %d rows.', self::MOST_ROWS));
            }
            $cells = [];
            foreach ($row->getElementsByTagNameNS('*', 'c') as $cell) {
                $at = self::column($cell->getAttribute('r')) ?? \count($cells);
                if ($at >= self::MOST_COLUMNS) {
                    continue;
                }
                $cells = array_pad($cells, $at, '');
                $cells[$at] = self::value($cell, $texts);
            }
            $rows[] = array_values($cells);
        }

        return $rows;
    }

    /** @param list<string> $texts */
    private static function value(\DOMElement $cell, array $texts): string
    {
        if ('inlineStr' === $cell->getAttribute('t')) {
            return self::text($cell);
        }
        $value = trim($cell->getElementsByTagNameNS('*', 'v')->item(0)->textContent ?? '');

        return 's' === $cell->getAttribute('t') ? $texts[(int) $value] ?? '' : $value;
    }

    /** @return list<string> */
    private static function texts(string $shared): array
    {
        $texts = [];
        foreach (self::load($shared)->getElementsByTagNameNS('*', 'si') as $item) {
            $texts[] = self::text($item);
        }

        return $texts;
    }

    /** All runs of a text together. */
    private static function text(\DOMElement $of): string
    {
        $text = '';
        foreach ($of->getElementsByTagNameNS('*', 't') as $run) {
            $text .= $run->textContent;
        }

        return trim($text);
    }

    /** The column that a place such as AB12 names, counted from 0; null when it names none. */
    private static function column(string $place): ?int
    {
        if (1 !== preg_match('/\A([A-Z]{1,3})\d{1,7}\z/', $place, $m)) {
            return null;
        }
        $column = 0;
        foreach (str_split($m[1]) as $letter) {
            $column = $column * 26 + \ord($letter) - 64;
        }

        return $column - 1;
    }

    private static function load(string $xml): \DOMDocument
    {
        return SafeXml::load($xml, self::MOST_BYTES, 'a workbook’s sheet');
    }
}
