<?php

declare(strict_types=1);

namespace Nelbix\App\Import;

use Doctrine\ORM\EntityManagerInterface;
use Nelbix\App\Platform\Actor;
use Nelbix\App\Platform\Transaction;
use Nelbix\Core\Formats\Csv;
use Nelbix\Core\Problem;
use Nelbix\Core\ProblemKind;
use Nelbix\Core\Refused;
use Symfony\Component\DependencyInjection\Attribute\AutowireIterator;

/** Imports a CSV file whole or not at all, and lists every error with its line and field. */
final readonly class ImportFile
{
    /** What is posted from a file would be posted twice from the same one. */
    private const POSTS = [
        'vendor-invoices',
        'customer-invoices',
        'deliveries',
        'receipts',
        'payments',
        'settlements',
        'journal',
        'opening-payables',
        'opening-receivables',
    ];

    /** @param iterable<CsvImporter> $importers */
    public function __construct(
        #[AutowireIterator(CsvImporter::class)] private iterable $importers,
        private Transaction $transaction,
        private EntityManagerInterface $entities,
        private FilesTaken $taken,
    ) {
    }

    /** When this very file was taken over before, in words; null when that does not matter for its kind. */
    public function takenBefore(Actor $actor, string $kind, string $bytes): ?string
    {
        return \in_array($kind, self::POSTS, true) ? $this->taken->before($actor, $kind, $bytes) : null;
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
     * @param bool $again it is meant, though the same file was taken over before
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
        bool $again = false,
    ): array {
        $importer = $this->importer($kind);
        try {
            $rows = Csv::read($bytes, $importer->required($kind), $importer->optional($kind));
        } catch (Refused $e) {
            return ['created' => 0, 'errors' => $e->problems];
        }
        $take = new TakeRecords(
            $actor,
            $importer,
            $kind,
            $this->records($rows, $importer->key($kind)),
            $approved,
            $progress ?? static fn (int $done): null => null,
        );
        $work = fn (): array => match (true) {
            $importer instanceof PlanningImporter => $take->planned($importer->begin($actor, $kind), $dryRun),
            $dryRun => $take->tried($this->transaction, $this->entities),
            default => $take->whole($this->transaction, $this->entities),
        };
        $errors =
            $dryRun || !\in_array($kind, self::POSTS, true)
                ? $work()
                : $this->once($actor, $kind, $bytes, $again, $take, $work);

        return ['created' => [] === $errors ? $take->count() : 0, 'errors' => $errors];
    }

    /**
     * @param \Closure(): list<Problem> $work
     *
     * @return list<Problem>
     */
    private function once(
        Actor $actor,
        string $kind,
        string $bytes,
        bool $again,
        TakeRecords $take,
        \Closure $work,
    ): array {
        $before = $again ? null : $this->takenBefore($actor, $kind, $bytes);
        $begun = null === $before ? $this->taken->begin($actor, $kind, $bytes) : null;
        if (null === $begun) {
            return [
                new Problem(
                    '',
                    ($before ?? 'Somebody else takes this very file over just now.').
                        ' Say that it is meant once more, or leave it.',
                    1,
                    ProblemKind::Asks,
                ),
            ];
        }
        $records = null;
        try {
            $errors = $work();
            $records = [] === $errors ? $take->count() : null;
        } finally {
            $this->taken->end($begun, $records);
        }

        return $errors;
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
}
