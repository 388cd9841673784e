<?php

declare(strict_types=1);

namespace Nelbix\App\Import;

use Doctrine\ORM\EntityManagerInterface;
use Nelbix\App\Platform\Actor;
use Nelbix\App\Platform\Transaction;
use Nelbix\Core\Formats\Csv;
use Nelbix\Core\Problem;
use Nelbix\Core\Refused;
use Symfony\Component\DependencyInjection\Attribute\AutowireIterator;

/** Imports a CSV file whole or not at all, and lists every error with its line and field. */
final readonly class ImportFile
{
    /** Fields that a file has under another name, the likelier first. */
    private const COLUMNS = [
        'amount' => ['applied'],
        'items' => ['apply_to', 'document'],
        'adjustments' => ['discount', 'applied'],
        'posting_date' => ['document_date', 'date'],
        'date' => ['posting_date', 'document_date'],
        'lines' => ['amount'],
        'lines.0.amount' => ['amount'],
        'code' => ['number', 'party'],
    ];

    /** @param iterable<CsvImporter> $importers */
    public function __construct(
        #[AutowireIterator(CsvImporter::class)] private iterable $importers,
        private Transaction $transaction,
        private EntityManagerInterface $entities,
    ) {
    }

    /** @return list<string> */
    public function kinds(): array
    {
        $kinds = [];
        foreach ($this->importers as $importer) {
            array_push($kinds, ...$importer->kinds());
        }
        sort($kinds);

        return $kinds;
    }

    /** @return array{required: list<string>, optional: list<string>} */
    public function columns(string $kind): array
    {
        $importer = $this->importer($kind);

        return ['required' => $importer->required($kind), 'optional' => $importer->optional($kind)];
    }

    /**
     * @param (callable(int): void)|null $progress told how many records are through
     *
     * @return array{created: int, errors: list<Problem>} created is 0 when there are errors; a dry run says what would be
     *
     * @throws Refused when the kind is unknown
     */
    public function import(
        Actor $actor,
        string $kind,
        string $bytes,
        bool $dryRun = false,
        bool $approved = false,
        ?callable $progress = null,
    ): array {
        $importer = $this->importer($kind);
        try {
            $rows = Csv::read($bytes, $importer->required($kind), $importer->optional($kind));
        } catch (Refused $e) {
            return ['created' => 0, 'errors' => $e->problems];
        }
        $records = $this->records($rows, $importer->key($kind));
        $errors = [];
        $columns = [...$importer->required($kind), ...$importer->optional($kind)];
        try {
            $this->transaction->attempt(function () use (
                $actor,
                $importer,
                $kind,
                $records,
                $dryRun,
                $approved,
                $progress,
                $columns,
                &$errors,
            ): void {
                foreach ($records as $k => $record) {
                    try {
                        $importer->take($actor, $kind, array_column($record, 'row'), $approved);
                    } catch (Refused $e) {
                        foreach ($e->problems as $problem) {
                            $errors[] = $this->placed($problem, $record, $columns);
                        }
                        if (\count($errors) >= Csv::MAX_PROBLEMS) {
                            break;
                        }
                    }
                    if (null !== $progress) {
                        $progress($k + 1);
                    }
                    if (0 === ($k + 1) % 50) {
                        $this->entities->flush();
                        $this->entities->clear();
                    }
                }
                $this->entities->flush();
                if ($dryRun || [] !== $errors) {
                    throw new NothingKept();
                }
            });
        } catch (NothingKept) {
        }

        return ['created' => [] === $errors ? \count($records) : 0, 'errors' => $errors];
    }

    private function importer(string $kind): CsvImporter
    {
        foreach ($this->importers as $importer) {
            if (\in_array($kind, $importer->kinds(), true)) {
                return $importer;
            }
        }
        throw Refused::because(
            'kind',
            \sprintf('“%s” is not a kind of file; %s are.', $kind, implode(', ', $this->kinds())),
        );
    }

    /**
     * Consecutive rows that share the key columns are one record.
     *
     * @param list<array{line: int, row: array<string, string>}> $rows
     * @param list<string> $key
     *
     * @return list<non-empty-list<array{line: int, row: array<string, string>}>>
     */
    private function records(array $rows, array $key): array
    {
        $records = [];
        $last = null;
        foreach ($rows as $row) {
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

    /**
     * The problem in the words of the file: its own column and line. What no column is to blame for stands on the record's first.
     *
     * @param non-empty-list<array{line: int, row: array<string, string>}> $record
     * @param list<string> $columns
     */
    private function placed(Problem $problem, array $record, array $columns): Problem
    {
        $line = $record[0]['line'];
        $field = $problem->field;
        if (1 === preg_match('/\Alines\.(\d+)\.(.+)\z/', $field, $m)) {
            $line = $record[(int) $m[1]]['line'] ?? $line;
            $field = $m[2];
        }
        // of several names the one that the record fills; what is missing has its own
        $known = array_values(array_intersect([$field, ...self::COLUMNS[$field] ?? []], $columns));
        $filled = array_values(
            array_filter($known, static fn (string $c): bool => '' !== ($record[0]['row'][$c] ?? '')),
        );
        if ([] !== $known) {
            return new Problem($filled[0] ?? $known[0], $problem->message, $line, $problem->kind);
        }

        return new Problem('', $problem->message, $line, $problem->kind);
    }
}
