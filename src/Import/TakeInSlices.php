<?php

declare(strict_types=1);

namespace Nelbix\App\Import;

use Doctrine\ORM\EntityManagerInterface;
use Nelbix\App\Books\LotBook;
use Nelbix\App\Books\LotState;
use Nelbix\App\Books\PostingLot;
use Nelbix\App\Platform\Actor;
use Nelbix\App\Platform\FileStore;
use Nelbix\App\Platform\Transaction;
use Nelbix\Core\Problem;
use Nelbix\Core\Refused;
use Psr\Clock\ClockInterface;
use Symfony\Component\DependencyInjection\Attribute\Autowire;

/**
 * Takes a long file over in slices, each in a transaction of its own: all of it is checked first; then a slice after another is posted
 * under a lot, and waits until all are there. What stops in the middle is gone on with, or taken back.
 *
 * Of a slice, done counts lines and created counts the records until then.
 *
 * @phpstan-import-type FileRecord from TakeRecords
 *
 * @phpstan-type SliceTaken array{done: int, more: bool, created: int, errors: list<Problem>}
 */
final class TakeInSlices
{
    /** Records that are posted one by one take longer than those that are planned and written together: so many fewer make a slice. */
    private const ONE_BY_ONE = 5;

    /** @var array{string, list<FileRecord>}|null the file that was read last: a worker reads it once, not for every slice */
    private ?array $read = null;

    public function __construct(
        private readonly Importers $importers,
        private readonly ImportFile $importFile,
        private readonly FilesTaken $taken,
        private readonly FileStore $files,
        private readonly LotBook $lots,
        private readonly Transaction $transaction,
        private readonly EntityManagerInterface $entities,
        private readonly ClockInterface $clock,
        #[Autowire('%nelbix.import_slice%')] private readonly int $records,
    ) {
    }

    /** Whether a file of this kind and length is taken over in slices. */
    public function takes(string $kind, string $bytes): bool
    {
        return null !== LotKind::tryFrom($kind) && substr_count(rtrim($bytes), "\n") > $this->records;
    }

    /** Whether a file has so many records that it goes in slices, and no lot is opened for it yet. */
    public function isToBegin(int $companyId, LotKind $kind, int $fileId): bool
    {
        $file = null === $this->lotOf($companyId, $fileId) ? $this->files->read($companyId, 'import', $fileId) : null;
        try {
            return null !== $file && $this->records < \count($this->recordsOf($kind, $fileId, $file['content']));
        } catch (Refused) {
            return false;
        }
    }

    /**
     * Checks the whole file and opens its lot. What was right when it was checked before may not be any more: it is better to know that
     * before anything is posted. Call outside of a transaction, so that nobody waits for it.
     *
     * @param array{name: string, content: string} $file
     * @param bool $again the same file once more is meant
     * @param bool $approved what would wait for an approval is posted
     * @param callable(int): void $progress told how many records are through
     *
     * @return SliceTaken
     */
    public function begin(
        Actor $actor,
        LotKind $kind,
        int $fileId,
        array $file,
        bool $again,
        bool $approved,
        callable $progress,
    ): array {
        $records = \count($this->recordsOf($kind, $fileId, $file['content']));
        try {
            $this->taken->mustBeNew($actor, $kind->value, $file['content'], $again);
            $errors = $this->importFile->import($actor, $kind->value, $file['content'], true, $approved, $progress)[
                'errors'
            ];
            if ([] !== $errors) {
                return self::wrong($errors);
            }
            $this->transaction->run(function () use ($actor, $kind, $fileId, $file, $again, $approved, $records): void {
                $this->lots->open(
                    $actor,
                    new PostingLot(
                        $actor->companyId,
                        $kind->holds(),
                        $kind->side(),
                        $kind->value,
                        mb_substr($file['name'], 0, 200),
                        $approved,
                        $fileId,
                        $this->taken->claim($actor, $kind->value, $file['content'], $again),
                        $records,
                        $actor->userId,
                        $this->clock->now(),
                    ),
                );
            });
        } catch (Refused $e) {
            return self::wrong($e->problems);
        }

        return ['done' => 0, 'more' => true, 'created' => 0, 'errors' => []];
    }

    /**
     * The next slice. Call inside a transaction.
     *
     * @return SliceTaken|null null when no lot was opened, and the file is taken at once
     *
     * @throws Refused when it stops in the middle; what is posted waits. When it was begun as another kind of file
     */
    public function next(Actor $actor, LotKind $kind, int $fileId, string $bytes): ?array
    {
        $lot = $this->lotOf($actor->companyId, $fileId);
        if (null === $lot) {
            return null;
        }
        $lot = $this->lots->locked($actor, $lot->id(), LotState::UnderWay);
        if ($lot->kind !== $kind->value) {
            throw Refused::because('kind', \sprintf('%s was begun as %s.', $lot->name, Importers::words($lot->kind)));
        }
        $records = $this->recordsOf($kind, $fileId, $bytes);
        $importer = $this->importers->of($lot->kind);
        $most =
            $importer instanceof PlanningImporter ? $this->records : max(1, intdiv($this->records, self::ONE_BY_ONE));
        $part = \array_slice($records, $lot->posted, $most);
        if ([] !== $part) {
            $made = $this->posted($actor, $lot, $importer, $part);
            // taking them may have let go of everything that was looked at
            $lot = $this->lots->locked($actor, $lot->id(), LotState::UnderWay);
            $this->lots->add($lot, $made, \count($part));
        }
        $more = $lot->posted < \count($records);
        if (!$more) {
            $this->lots->release($actor, $lot);
            $this->taken->end($lot->takenId, $lot->records);
            $this->files->drop($actor->companyId, 'import', $lot->fileId);
            $this->read = null;
        }

        return [
            'done' => array_sum(array_map(count(...), $part)),
            'more' => $more,
            'created' => $lot->posted,
            'errors' => [],
        ];
    }

    /**
     * @param non-empty-list<FileRecord> $part
     *
     * @return list<int>
     *
     * @throws Refused
     */
    private function posted(Actor $actor, PostingLot $lot, CsvImporter $importer, array $part): array
    {
        $take = new TakeRecords($actor, $importer, $lot->kind, $part, $lot->approved, static fn (int $n): null => null);
        $errors =
            $importer instanceof PlanningImporter
                ? $take->planned($importer->begin($actor, $lot->kind), false)
                : $take->whole($this->transaction, $this->entities);
        if ([] !== $errors) {
            throw self::stopped($lot, $errors);
        }

        return $take->made;
    }

    private function lotOf(int $companyId, int $fileId): ?PostingLot
    {
        return $this->entities
            ->getRepository(PostingLot::class)
            ->findOneBy(['fileId' => $fileId, 'companyId' => $companyId]);
    }

    /**
     * @param list<Problem> $errors
     *
     * @return SliceTaken
     */
    private static function wrong(array $errors): array
    {
        return ['done' => 0, 'more' => false, 'created' => 0, 'errors' => $errors];
    }

    /** @param non-empty-list<Problem> $errors */
    private static function stopped(PostingLot $lot, array $errors): Refused
    {
        $first = $errors[0];

        return Refused::because(
            '',
            \sprintf(
                'Line %d%s: %s %d of %d %s are posted and wait. Mend what stops it and go on, or take them back.',
                $first->line ?? 1,
                '' === $first->field ? '' : ', '.$first->field,
                $first->message,
                $lot->posted,
                $lot->records,
                $lot->holds->value,
            ),
        );
    }

    /**
     * @return list<FileRecord>
     *
     * @throws Refused
     */
    private function recordsOf(LotKind $kind, int $fileId, string $bytes): array
    {
        $file = $kind->value.' '.$fileId;
        if (null === $this->read || $this->read[0] !== $file) {
            $this->read = [$file, FileRecords::of($this->importers->of($kind->value), $kind->value, $bytes)];
        }

        return $this->read[1];
    }
}
