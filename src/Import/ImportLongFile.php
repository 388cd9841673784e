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

/** A file that is too long for one page: checked, then taken over, by the worker. One slice, because it is taken whole or not at all. */
final readonly class ImportLongFile implements LongWork
{
    private const CHECK = 'check ';
    private const AGAIN = 'again ';

    public function __construct(
        private ImportFile $importFile,
        private FileStore $files,
        private StartWork $startWork,
    ) {
    }

    /**
     * @param bool $dryRun only to see what is wrong
     * @param bool $again the same file once more is meant
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
    ): void {
        $this->startWork->start(
            $actor,
            $this,
            $fileId,
            \sprintf('%s of %s', $dryRun ? 'Check' : 'Import', str_replace('-', ' ', $kind)),
            substr_count(rtrim($bytes), "\n"),
            ($dryRun ? self::CHECK : '').($again ? self::AGAIN : '').$kind,
        );
    }

    /** @return array{kind: string, dryRun: bool, again: bool} what a job was asked */
    public static function asked(string $options): array
    {
        $words = explode(' ', trim($options));

        return [
            'kind' => $words[\count($words) - 1],
            'dryRun' => \in_array(trim(self::CHECK), $words, true),
            'again' => \in_array(trim(self::AGAIN), $words, true),
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
        return self::asked($job->options)['dryRun'];
    }

    public function slice(Actor $actor, Job $job, Progress $progress): Slice
    {
        $id = $job->subjectId;
        ['kind' => $kind, 'dryRun' => $dryRun, 'again' => $again] = self::asked($job->options);
        $file =
            $this->files->read($actor->companyId, 'import', $id) ??
            throw Refused::because('file', 'The file is gone; choose it again.');
        $result = $this->importFile->import(
            $actor,
            $kind,
            $file['content'],
            $dryRun,
            false,
            $progress->at(...),
            $again,
        );
        if (!$dryRun || [] !== $result['errors']) {
            $this->files->drop($actor->companyId, 'import', $id);
        }
        $lines = preg_split('/\r\n|\n|\r/', $file['content']) ?: [];

        return new Slice($result['created'], false, [
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
        ]);
    }
}
