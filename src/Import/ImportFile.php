<?php

declare(strict_types=1);

namespace Nelbix\App\Import;

use Doctrine\ORM\EntityManagerInterface;
use Nelbix\App\Platform\Actor;
use Nelbix\App\Platform\Transaction;
use Nelbix\Core\Problem;
use Nelbix\Core\Refused;

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

    public function __construct(
        private Importers $importers,
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
        $importer = $this->importers->of($kind);
        try {
            $records = FileRecords::of($importer, $kind, $bytes);
        } catch (Refused $e) {
            return ['created' => 0, 'errors' => $e->problems];
        }
        $take = new TakeRecords(
            $actor,
            $importer,
            $kind,
            $records,
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
        try {
            $begun = $this->taken->claim($actor, $kind, $bytes, $again);
        } catch (Refused $e) {
            return $e->problems;
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
}
