<?php

declare(strict_types=1);

namespace Nelbix\App\Import;

use Doctrine\ORM\EntityManagerInterface;
use Nelbix\App\Platform\Actor;
use Nelbix\App\Platform\NothingKept;
use Nelbix\App\Platform\Transaction;
use Nelbix\Core\Formats\Csv;
use Nelbix\Core\Problem;
use Nelbix\Core\Refused;
use Symfony\Component\DependencyInjection\Attribute\Exclude;

/**
 * Takes the records of one file, in one of three ways, and gathers what is wrong with its line and column.
 *
 * @phpstan-type FileRecord non-empty-list<array{line: int, row: array<string, string>}>
 */
#[Exclude]
final class TakeRecords
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
        'number' => ['order'],
        'party' => ['vendor'],
        'ordered_on' => ['order_date'],
        'delivered_on' => ['date'],
        'note_number' => ['note'],
    ];

    /** @var list<int> what became of the records, see CsvImporter::take() */
    public array $made = [];

    /** @var list<Problem> */
    private array $errors = [];

    /** @var list<string> */
    private readonly array $columns;

    /**
     * @param list<FileRecord> $records
     * @param callable(int): mixed $progress told how many records are through
     */
    public function __construct(
        private readonly Actor $actor,
        private readonly CsvImporter $importer,
        private readonly string $kind,
        private readonly array $records,
        private readonly bool $approved,
        private readonly mixed $progress,
    ) {
        $this->columns = [...$importer->required($kind), ...$importer->optional($kind)];
    }

    public function count(): int
    {
        return \count($this->records);
    }

    /**
     * All are worked out first; then all are written at once, or nothing is.
     *
     * @return list<Problem>
     */
    public function planned(PlannedFile $file, bool $dryRun): array
    {
        foreach ($this->records as $k => $record) {
            if (!$this->goesOn(static fn () => $file->plan(array_column($record, 'row')), $record)) {
                break;
            }
            ($this->progress)($k + 1);
        }
        if ([] === $this->errors) {
            try {
                $dryRun ? $file->whole() : ($this->made = $file->write());
            } catch (Refused $e) {
                foreach ($e->problems as $problem) {
                    preg_match('/\Arecord\.(\d+)\.(.*)\z/', $problem->field, $m);
                    $of = $this->records[(int) ($m[1] ?? 0)];
                    $this->errors[] = $this->placed(
                        new Problem($m[2] ?? $problem->field, $problem->message, null, $problem->kind),
                        $of,
                    );
                }
            }
        }

        return $this->errors;
    }

    /**
     * Each is tried and taken back at once, along with those that may get in its way, so that nobody waits for the check of a file.
     *
     * @return list<Problem> by line
     */
    public function tried(Transaction $transaction, EntityManagerInterface $entities): array
    {
        $groups = [];
        $by = $this->importer->together($this->kind);
        foreach ($this->records as $record) {
            $own = array_map(static fn (string $c): string => mb_strtoupper($record[0]['row'][$c] ?? ''), $by);
            $groups[implode("\0", $own)][] = $record;
        }
        $done = 0;
        foreach ($groups as $group) {
            [$known, $through] = [$this->errors, $done];
            try {
                $transaction->attempt(function () use ($group, $entities, $known, $through, &$done): never {
                    [$this->errors, $done] = [$known, $through];
                    $this->takeAll($group, $entities, $done);
                    $entities->flush();
                    throw new NothingKept();
                });
            } catch (NothingKept) {
            }
            if (\count($this->errors) >= Csv::MAX_PROBLEMS) {
                break;
            }
        }
        usort($this->errors, static fn (Problem $a, Problem $b): int => (int) $a->line <=> (int) $b->line);

        return $this->errors;
    }

    /**
     * One after another in one transaction: all of them, or nothing.
     *
     * @return list<Problem>
     */
    public function whole(Transaction $transaction, EntityManagerInterface $entities): array
    {
        try {
            $transaction->attempt(function () use ($entities): void {
                $this->errors = $this->made = [];
                $done = 0;
                $this->takeAll($this->records, $entities, $done);
                $entities->flush();
                if ([] !== $this->errors) {
                    throw new NothingKept();
                }
            });
        } catch (NothingKept) {
        }

        return $this->errors;
    }

    /** @param list<FileRecord> $records */
    private function takeAll(array $records, EntityManagerInterface $entities, int &$done): void
    {
        foreach ($records as $record) {
            $take = function () use ($record): void {
                $rows = array_column($record, 'row');
                array_push($this->made, ...$this->importer->take($this->actor, $this->kind, $rows, $this->approved));
            };
            if (!$this->goesOn($take, $record)) {
                return;
            }
            ($this->progress)(++$done);
            if (0 === $done % 50) {
                $entities->flush();
                $entities->clear();
            }
        }
    }

    /**
     * @param callable(): mixed $take
     * @param FileRecord $record
     *
     * @return bool false once there are as many problems as anybody reads
     */
    private function goesOn(callable $take, array $record): bool
    {
        try {
            $take();
        } catch (Refused $e) {
            foreach ($e->problems as $problem) {
                $this->errors[] = $this->placed($problem, $record);
            }
        }

        return \count($this->errors) < Csv::MAX_PROBLEMS;
    }

    /**
     * The problem in the words of the file: its own column and line. What no column is to blame for stands on the record's first.
     *
     * @param non-empty-list<array{line: int, row: array<string, string>}> $record
     */
    private function placed(Problem $problem, array $record): Problem
    {
        $line = $record[0]['line'];
        $field = $problem->field;
        if (1 === preg_match('/\Alines\.(\d+)\.(.+)\z/', $field, $m)) {
            $line = $record[(int) $m[1]]['line'] ?? $line;
            $field = $m[2];
        }
        // of several names the one that the record fills; what is missing has its own
        $known = array_values(array_intersect([$field, ...self::COLUMNS[$field] ?? []], $this->columns));
        $filled = array_values(
            array_filter($known, static fn (string $c): bool => '' !== ($record[0]['row'][$c] ?? '')),
        );
        if ([] !== $known) {
            return new Problem($filled[0] ?? $known[0], $problem->message, $line, $problem->kind);
        }

        return new Problem('', $problem->message, $line, $problem->kind);
    }
}
