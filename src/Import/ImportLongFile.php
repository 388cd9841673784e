<?php

declare(strict_types=1);

namespace Nelbix\App\Import;

use Nelbix\App\Platform\Actor;
use Nelbix\App\Platform\FileStore;
use Nelbix\App\Platform\Permission;
use Nelbix\App\Work\Job;
use Nelbix\App\Work\LongWork;
use Nelbix\App\Work\Progress;
use Nelbix\App\Work\Slice;
use Nelbix\App\Work\StartWork;
use Nelbix\Core\Problem;
use Nelbix\Core\Refused;

/**
 * A file that is too long for one page: checked, then taken over, by the worker. One slice, because it is taken
 * whole or not at all; or, of what is posted, as many as TakeInSlices makes of it.
 *
 * @phpstan-import-type SliceTaken from TakeInSlices
 */
final readonly class ImportLongFile implements LongWork
{
    private const CHECK = 'check ';
    private const AGAIN = 'again ';
    private const APPROVED = 'approved ';

    public function __construct(
        private ImportFile $importFile,
        private TakeInSlices $slices,
        private FileStore $files,
        private StartWork $startWork,
    ) {
    }

    /**
     * @param bool $dryRun only to see what is wrong
     * @param bool $again the same file once more is meant
     * @param bool $approved whoever runs the machine took it in
     *
     * @return int the job's id
     *
     * @throws Refused while the file is worked on
     */
    public function start(
        Actor $actor,
        int $fileId,
        string $kind,
        string $bytes,
        bool $dryRun,
        bool $again = false,
        bool $approved = false,
    ): int {
        return $this->startWork->start(
            $actor,
            $this,
            $fileId,
            self::title($kind, $dryRun),
            substr_count(rtrim($bytes), "\n"),
            ($dryRun ? self::CHECK : '').($again ? self::AGAIN : '').($approved ? self::APPROVED : '').$kind,
        );
    }

    /**
     * What stopped in the middle.
     *
     * @param int $records how many are left
     *
     * @throws Refused while the file is worked on
     */
    public function goOn(Actor $actor, int $fileId, string $kind, int $records): void
    {
        $this->startWork->start($actor, $this, $fileId, self::title($kind, false), $records, $kind);
    }

    private static function title(string $kind, bool $dryRun): string
    {
        return \sprintf('%s of %s', $dryRun ? 'Check' : 'Import', Importers::words($kind));
    }

    /** @return array{kind: string, dryRun: bool, again: bool, approved: bool} what a job was asked */
    public static function asked(string $options): array
    {
        $words = explode(' ', trim($options));

        return [
            'kind' => $words[\count($words) - 1],
            'dryRun' => \in_array(trim(self::CHECK), $words, true),
            'again' => \in_array(trim(self::AGAIN), $words, true),
            'approved' => \in_array(trim(self::APPROVED), $words, true),
        ];
    }

    public function kind(): string
    {
        return 'import';
    }

    public function seenWith(): ?Permission
    {
        return null;
    }

    public function route(): string
    {
        return 'import_file';
    }

    public function onlyLooks(Job $job): bool
    {
        ['kind' => $kind, 'dryRun' => $dryRun] = self::asked($job->options);
        $lot = LotKind::tryFrom($kind);

        // a long file is checked before its first slice
        return $dryRun || (null !== $lot && $this->slices->isToBegin($job->companyId, $lot, $job->subjectId));
    }

    public function slice(Actor $actor, Job $job, Progress $progress): Slice
    {
        $id = $job->subjectId;
        ['kind' => $kind, 'dryRun' => $dryRun] = $asked = self::asked($job->options);
        $file =
            $this->files->read($actor->companyId, 'import', $id) ??
            throw Refused::because('file', 'The file is gone; choose it again.');
        $lot = $dryRun ? null : LotKind::tryFrom($kind);
        $result = match (true) {
            null === $lot => null,
            $this->slices->isToBegin($actor->companyId, $lot, $id) => $this->slices->begin(
                $actor,
                $lot,
                $id,
                $file,
                $asked['again'],
                $asked['approved'],
                $progress->at(...),
            ),
            default => $this->slices->next($actor, $lot, $id, $file['content']),
        };
        $result ??= $this->atOnce($actor, $kind, $file['content'], $asked, $progress);
        if ($result['more']) {
            return new Slice($result['done'], true);
        }
        if (!$dryRun || [] !== $result['errors']) {
            $this->files->drop($actor->companyId, 'import', $id);
        }

        return new Slice($result['done'], false, $this->said($actor, $kind, $file, $dryRun, $result));
    }

    /**
     * @param array{kind: string, dryRun: bool, again: bool, approved: bool} $asked
     *
     * @return SliceTaken
     */
    private function atOnce(Actor $actor, string $kind, string $bytes, array $asked, Progress $progress): array
    {
        $result = $this->importFile->import(
            $actor,
            $kind,
            $bytes,
            $asked['dryRun'],
            $asked['approved'],
            $progress->at(...),
            $asked['again'],
        );

        return ['done' => $result['created'], 'more' => false, ...$result];
    }

    /**
     * What the page says of it.
     *
     * @param array{name: string, content: string} $file
     * @param SliceTaken $result
     *
     * @return array<string, mixed>
     */
    private function said(Actor $actor, string $kind, array $file, bool $dryRun, array $result): array
    {
        $lines = preg_split('/\r\n|\n|\r/', $file['content']) ?: [];

        return [
            'name' => $file['name'],
            'before' => $dryRun ? $this->importFile->takenBefore($actor, $kind, $file['content']) : null,
            'created' => $result['created'],
            'errors' => array_map(
                static fn (Problem $p): array => [
                    'line' => $p->line,
                    'field' => $p->field,
                    'message' => $p->message,
                    'text' => mb_strimwidth(mb_scrub($lines[($p->line ?? 1) - 1] ?? ''), 0, 120, '…'),
                ],
                $result['errors'],
            ),
        ];
    }
}
