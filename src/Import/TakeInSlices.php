<?php

declare(strict_types=1);

namespace Nelbix\App\Import;

use Doctrine\ORM\EntityManagerInterface;
use Nelbix\App\Books\LotBook;
use Nelbix\App\Books\LotState;
use Nelbix\App\Books\PostingLot;
use Nelbix\App\Platform\Actor;
use Nelbix\App\Platform\FileStore;
use Nelbix\Core\Ledger\Side;
use Nelbix\Core\Problem;
use Nelbix\Core\Refused;
use Symfony\Component\DependencyInjection\Attribute\Autowire;

/**
 * Takes a long file of documents over in slices, each in a transaction of its own: all of it is checked first; then a slice after
 * another is posted under a lot, whose documents wait until all are there. What stops in the middle is gone on with, or taken back.
 *
 * Of a slice, done counts lines and created counts the records until then.
 *
 * @phpstan-import-type FileRecord from TakeRecords
 *
 * @phpstan-type SliceTaken array{done: int, more: bool, created: int, errors: list<Problem>}
 */
final class TakeInSlices
{
    /** The kinds of file that become documents, and of which side. */
    private const SIDES = [
        'vendor-invoices' => Side::Payables,
        'customer-invoices' => Side::Receivables,
        'opening-payables' => Side::Payables,
        'opening-receivables' => Side::Receivables,
    ];

    /** @var array{int, list<FileRecord>}|null the file that was read last: a worker reads it once, not for every slice */
    private ?array $read = null;

    public function __construct(
        private readonly Importers $importers,
        private readonly ImportFile $importFile,
        private readonly FilesTaken $taken,
        private readonly FileStore $files,
        private readonly LotBook $lots,
        private readonly EntityManagerInterface $entities,
        #[Autowire('%nelbix.import_slice%')] private readonly int $records,
    ) {
    }

    /** Whether a file of this kind and length is taken over in slices. */
    public function takes(string $kind, string $bytes): bool
    {
        return isset(self::SIDES[$kind]) && substr_count(rtrim($bytes), "\n") > $this->records;
    }

    /**
     * The next slice. Call inside a transaction.
     *
     * @param array{name: string, content: string} $file
     * @param bool $again the same file once more is meant
     *
     * @return SliceTaken|null null when it has few records, and is taken at once
     *
     * @throws Refused when it stops in the middle; what is posted waits
     */
    public function next(Actor $actor, string $kind, int $fileId, array $file, bool $again): ?array
    {
        if (!isset(self::SIDES[$kind])) {
            return null;
        }
        try {
            $records = $this->recordsOf($kind, $fileId, $file['content']);
        } catch (Refused) {
            return null;
        }
        $lot = $this->entities
            ->getRepository(PostingLot::class)
            ->findOneBy(['fileId' => $fileId, 'companyId' => $actor->companyId]);
        if (null === $lot) {
            return \count($records) > $this->records
                ? $this->begin($actor, $kind, $fileId, $file, \count($records), $again)
                : null;
        }

        return $this->goOn($actor, $this->lots->locked($actor, $lot->id(), LotState::UnderWay), $records);
    }

    /**
     * @param array{name: string, content: string} $file
     *
     * @return SliceTaken
     */
    private function begin(Actor $actor, string $kind, int $fileId, array $file, int $records, bool $again): array
    {
        try {
            $claim = $this->taken->claim($actor, $kind, $file['content'], $again);
        } catch (Refused $e) {
            return ['done' => 0, 'more' => false, 'created' => 0, 'errors' => $e->problems];
        }
        // what was right when it was checked may not be any more: it is better to know before anything is posted
        $errors = $this->importFile->import($actor, $kind, $file['content'], true)['errors'];
        if ([] !== $errors) {
            $this->taken->end($claim, null);

            return ['done' => 0, 'more' => false, 'created' => 0, 'errors' => $errors];
        }
        $this->lots->open($actor, self::SIDES[$kind], $kind, $file['name'], $fileId, $claim, $records);

        return ['done' => 0, 'more' => true, 'created' => 0, 'errors' => []];
    }

    /**
     * @param list<FileRecord> $records of the whole file
     *
     * @return SliceTaken
     */
    private function goOn(Actor $actor, PostingLot $lot, array $records): array
    {
        $importer = $this->importers->of($lot->kind);
        \assert($importer instanceof PlanningImporter);
        $part = \array_slice($records, $lot->posted, $this->records);
        if ([] !== $part) {
            $take = new TakeRecords($actor, $importer, $lot->kind, $part, false, static fn (int $done): null => null);
            $errors = $take->planned($importer->begin($actor, $lot->kind), false);
            if ([] !== $errors) {
                throw self::stopped($lot, $errors);
            }
            $this->lots->add($lot, $take->made, \count($part));
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

    /** @param non-empty-list<Problem> $errors */
    private static function stopped(PostingLot $lot, array $errors): Refused
    {
        $first = $errors[0];

        return Refused::because(
            '',
            \sprintf(
                'Line %d%s: %s %d of %d documents are posted and wait. Mend what stops it and go on, or take them back.',
                $first->line ?? 1,
                '' === $first->field ? '' : ', '.$first->field,
                $first->message,
                $lot->posted,
                $lot->records,
            ),
        );
    }

    /**
     * @return list<FileRecord>
     *
     * @throws Refused
     */
    private function recordsOf(string $kind, int $fileId, string $bytes): array
    {
        if (null === $this->read || $this->read[0] !== $fileId) {
            $this->read = [$fileId, FileRecords::of($this->importers->of($kind), $kind, $bytes)];
        }

        return $this->read[1];
    }
}
