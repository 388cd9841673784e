<?php

declare(strict_types=1);

namespace Nelbix\Core\Formats;

use Nelbix\Core\Problem;
use Nelbix\Core\Refused;

/**
 * Reads CSV as RFC 4180 has it: UTF-8, header line, comma, quotes. A byte-order mark and CRLF are accepted;
 * semicolons with decimal comma are accepted when every line agrees. Source: commands.md, CSV.
 */
final class Csv
{
    public const MAX_BYTES = 64 * 1024 * 1024;
    public const MAX_PROBLEMS = 200;
    public const MAX_ROWS = 500_000;
    public const MAX_FIELDS = 500;
    private const NUMBERS = [
        'amount',
        'applied',
        'discount',
        'write_off',
        'withholding',
        'rate',
        'recoverable_percent',
        'credit_limit',
    ];

    /**
     * @param list<string> $required
     * @param list<string> $optional
     *
     * @return list<array{line: int, row: array<string, string>}> one row a record, every known column present (empty when missing)
     *
     * @throws Refused with every problem found, up to MAX_PROBLEMS
     */
    public static function read(string $bytes, array $required, array $optional = []): array
    {
        if (\strlen($bytes) > self::MAX_BYTES) {
            throw Refused::because('', 'The file is larger than 64 MB; split it.');
        }
        $bytes = str_starts_with($bytes, "\xEF\xBB\xBF") ? substr($bytes, 3) : $bytes;
        if (!mb_check_encoding($bytes, 'UTF-8') || str_contains($bytes, "\0")) {
            throw Refused::because('', 'The file is not UTF-8 text; save it as CSV in UTF-8.');
        }
        $end = strcspn($bytes, "\r\n");
        $header = substr($bytes, 0, $end);
        $separator = str_contains($header, ';') && !str_contains($header, ',') ? ';' : ',';
        $records = self::records($bytes, $separator);
        $columns = array_map('trim', array_shift($records)['cells'] ?? []);
        $known = [...$required, ...$optional];
        $problems = [];
        foreach ($columns as $column) {
            if (!\in_array($column, $known, true)) {
                $problems[] = new Problem(
                    mb_strimwidth($column, 0, 40, '…'),
                    \sprintf(
                        '“%s” is not a column of this kind of file; known are %s.',
                        mb_strimwidth($column, 0, 40, '…'),
                        implode(', ', $known),
                    ),
                    1,
                );
                if (\count($problems) >= 20) {
                    break;
                }
            }
        }
        foreach (array_diff($required, $columns) as $column) {
            $problems[] = new Problem(
                $column,
                \sprintf('The column “%s” is missing from the header line.', $column),
                1,
            );
        }
        if (\count($columns) !== \count(array_unique($columns))) {
            $problems[] = new Problem('', 'A column stands twice in the header line.', 1);
        }
        if ([] !== $problems) {
            throw Refused::all($problems);
        }
        $rows = [];
        $blank = array_fill_keys($known, '');
        foreach ($records as ['line' => $line, 'cells' => $cells]) {
            if (\count($cells) !== \count($columns)) {
                $problems[] = new Problem(
                    '',
                    \sprintf('The line has %d fields where the header has %d.', \count($cells), \count($columns)),
                    $line,
                );
                if (\count($problems) >= self::MAX_PROBLEMS) {
                    break;
                }
                continue;
            }
            $rows[] = [
                'line' => $line,
                'row' => array_merge($blank, array_combine($columns, array_map('trim', $cells))),
            ];
        }
        if ([] !== $problems) {
            throw Refused::all($problems);
        }

        return ';' === $separator ? self::withPoint($rows) : $rows;
    }

    /**
     * The records of a file whose columns nobody knows yet, the headings first: UTF-8 or Windows-1252, commas, semicolons or tabs.
     *
     * @return list<array{line: int, cells: list<string>}> cells without blanks around them
     *
     * @throws Refused when it is no text, or a quote is never closed
     */
    public static function table(string $bytes): array
    {
        if (\strlen($bytes) > self::MAX_BYTES) {
            throw Refused::because('', 'The file is larger than 64 MB; split it.');
        }
        $bytes = str_starts_with($bytes, "\xEF\xBB\xBF") ? substr($bytes, 3) : $bytes;
        if (1 === preg_match('/[\x00-\x08\x0E-\x1F]/', $bytes)) {
            throw Refused::because('', 'The file is no text; save it as CSV.');
        }
        if (!mb_check_encoding($bytes, 'UTF-8')) {
            $bytes = (string) mb_convert_encoding($bytes, 'UTF-8', 'Windows-1252');
        }
        $header = substr($bytes, 0, strcspn($bytes, "\r\n"));
        $counts = [
            ',' => substr_count($header, ','),
            ';' => substr_count($header, ';'),
            "\t" => substr_count($header, "\t"),
        ];
        arsort($counts);
        $records = self::records($bytes, (string) array_key_first($counts));

        return array_map(
            static fn (array $r): array => ['line' => $r['line'], 'cells' => array_map('trim', $r['cells'])],
            $records,
        );
    }

    /** @return list<array{line: int, cells: list<string>}> */
    private static function records(string $bytes, string $separator): array
    {
        $records = [];
        $length = \strlen($bytes);
        $at = 0;
        $line = 1;
        $cells = [];
        $started = 1;
        while ($at < $length) {
            if ('"' === $bytes[$at]) {
                $cell = '';
                $opened = $line;
                ++$at;
                while (true) {
                    $quote = strpos($bytes, '"', $at);
                    if (false === $quote) {
                        throw Refused::all([new Problem('', 'A quote is opened and never closed.', $opened)]);
                    }
                    $piece = substr($bytes, $at, $quote - $at);
                    $cell .= $piece;
                    $line += substr_count($piece, "\n");
                    $at = $quote + 1;
                    if (($bytes[$at] ?? '') !== '"') {
                        break;
                    }
                    $cell .= '"';
                    ++$at;
                }
                $cells[] = $cell;
                if ($at < $length && $bytes[$at] !== $separator && "\n" !== $bytes[$at] && "\r" !== $bytes[$at]) {
                    throw Refused::all([
                        new Problem('', 'Text follows a closing quote; double the quotes inside a field.', $line),
                    ]);
                }
            } else {
                $to = strcspn($bytes, $separator."\r\n", $at);
                $cells[] = substr($bytes, $at, $to);
                $at += $to;
            }
            if ($at < $length && $bytes[$at] === $separator) {
                ++$at;
                if (\count($cells) >= self::MAX_FIELDS) {
                    throw Refused::all([
                        new Problem('', \sprintf('A line has at most %d fields.', self::MAX_FIELDS), $line),
                    ]);
                }
                if ($at < $length && "\n" !== $bytes[$at] && "\r" !== $bytes[$at]) {
                    continue;
                }
                $cells[] = '';
            }
            if (\count($records) > self::MAX_ROWS) {
                throw Refused::all([
                    new Problem('', \sprintf('A file has at most %d rows; split it.', self::MAX_ROWS), $line),
                ]);
            }
            if ([''] !== $cells) {
                $records[] = ['line' => $started, 'cells' => $cells];
            }
            $cells = [];
            $at += $at < $length && "\r" === $bytes[$at] ? 1 : 0;
            $at += $at < $length && "\n" === $bytes[$at] ? 1 : 0;
            $started = ++$line;
        }

        return $records;
    }

    /**
     * Decimal commas become points in fields that are numbers, when no number of the file has a point.
     *
     * @param list<array{line: int, row: array<string, string>}> $rows
     *
     * @return list<array{line: int, row: array<string, string>}>
     */
    private static function withPoint(array $rows): array
    {
        foreach ($rows as $r) {
            foreach ($r['row'] as $field => $cell) {
                if (\in_array($field, self::NUMBERS, true) && 1 === preg_match('/\A-?\d+\.\d+\z/', $cell)) {
                    throw Refused::all([
                        new Problem(
                            $field,
                            'The file has semicolons between fields and points in numbers; a file with semicolons needs decimal commas.',
                            $r['line'],
                        ),
                    ]);
                }
            }
        }
        foreach ($rows as $k => $r) {
            foreach (array_intersect_key($r['row'], array_flip(self::NUMBERS)) as $field => $cell) {
                $rows[$k]['row'][$field] = str_replace(',', '.', $cell);
            }
        }

        return $rows;
    }
}
