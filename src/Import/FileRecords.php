<?php

declare(strict_types=1);

namespace Nelbix\App\Import;

use Nelbix\Core\Formats\Csv;
use Nelbix\Core\Refused;

/**
 * The records of a file: consecutive rows that share the key columns are one.
 *
 * @phpstan-import-type FileRecord from TakeRecords
 */
final class FileRecords
{
    /**
     * @return list<FileRecord>
     *
     * @throws Refused with every line that cannot be read
     */
    public static function of(CsvImporter $importer, string $kind, string $bytes): array
    {
        $key = $importer->key($kind);
        $records = [];
        $last = null;
        foreach (Csv::read($bytes, $importer->required($kind), $importer->optional($kind)) as $row) {
            $value = array_map(static fn (string $column): string => $row['row'][$column], $key);
            if ([] !== $key && $value === $last && '' !== implode('', $value)) {
                $records[\count($records) - 1][] = $row;
            } else {
                $records[] = [$row];
            }
            $last = $value;
        }

        return $records;
    }
}
