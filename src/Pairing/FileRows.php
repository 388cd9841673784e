<?php

declare(strict_types=1);

namespace Nelbix\App\Pairing;

use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Formats\Csv;
use Nelbix\Core\Formats\Statement\CsvMapping;
use Nelbix\Core\Money\Currency;
use Nelbix\Core\Money\Money;
use Nelbix\Core\Problem;
use Nelbix\Core\Refused;

/**
 * Rows of a CSV file, by the columns that a source names.
 *
 * @phpstan-import-type SourceRow from SourceRows
 */
final class FileRows
{
    /**
     * @return list<SourceRow>
     *
     * @throws Refused with every line that is wrong
     */
    public static function read(string $bytes, Source $s, string $currency): array
    {
        $table = Csv::table($bytes);
        $at = $problems = [];
        foreach ($s->columns as $field => $heading) {
            $place = array_search($heading, $table[0]['cells'] ?? [], true);
            if (false === $place) {
                $problems[] = new Problem($field, \sprintf('The file has no column “%s”.', $heading), 1);
            } else {
                $at[$field] = $place;
            }
        }
        foreach (['amount', 'date'] as $needed) {
            if (!isset($s->columns[$needed])) {
                $problems[] = new Problem($needed, \sprintf('Say which column of the file holds the %s.', $needed));
            }
        }
        if ([] !== $problems) {
            throw Refused::all($problems);
        }
        $rows = [];
        foreach (\array_slice($table, 1) as $n => $row) {
            $cell = static fn (string $field): string => $row['cells'][$at[$field]] ?? '';
            try {
                $fields = [];
                foreach (array_diff(array_keys($at), ['amount', 'date']) as $field) {
                    $fields[$field] = mb_substr($cell($field), 0, 255);
                }
                $rows[] = [
                    'source' => 'row '.($n + 1),
                    'number' => mb_substr($fields['number'] ?? (string) ($n + 1), 0, 60),
                    'amount' => self::amount($cell('amount'), $s->decimal, $currency),
                    'base' => null,
                    'date' => self::day($cell('date'), $s->days),
                    'fields' => $fields,
                    'document' => null,
                ];
            } catch (Refused $e) {
                foreach ($e->problems as $p) {
                    $problems[] = new Problem(
                        $p->field,
                        \sprintf('Line %d: %s', $row['line'], $p->message),
                        $row['line'],
                    );
                }
                if (\count($problems) >= Csv::MAX_PROBLEMS) {
                    break;
                }
            }
        }

        return [] === $problems ? $rows : throw Refused::all($problems);
    }

    private static function amount(string $typed, string $decimal, string $currency): int
    {
        $plain =
            '.' === $decimal ? str_replace([',', '’', "'"], '', $typed) : str_replace(['.', ','], ['', '.'], $typed);

        return Money::parse($plain, Currency::of($currency), 'amount')->minor;
    }

    private static function day(string $typed, string $format): string
    {
        if (!CsvMapping::isDay($typed, $format)) {
            throw Refused::because(
                'date',
                \sprintf(
                    '“%s” is no day such as %s.',
                    mb_strimwidth($typed, 0, 30, '…'),
                    CsvMapping::DAYS[$format] ?? $format,
                ),
            );
        }
        $day = \DateTimeImmutable::createFromFormat('!'.$format, $typed, new \DateTimeZone('UTC'));
        \assert(false !== $day);

        return Day::of($day->format('Y-m-d'), 'date')->iso();
    }
}
