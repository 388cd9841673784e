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
use Nelbix\Core\Problem;
use Nelbix\Core\Refused;

/** A file that is too long for one page: checked, or taken over, by the worker. One slice, because it is taken whole or not at all. */
abstract readonly class ImportJob implements LongWork
{
    public function __construct(private ImportFile $importFile, private FileStore $files)
    {
    }

    /** Only to see what is wrong. */
    abstract protected function dryRun(): bool;

    public function seenWith(): ?Permission
    {
        return null;
    }

    public function route(): string
    {
        return 'import_file';
    }

    public function slice(Actor $actor, Job $job, Progress $progress): Slice
    {
        [$id, $kind] = [$job->subjectId, $job->options];
        $file = $this->files->read($actor->companyId, 'import', $id) ?? throw Refused::because('file', 'The file is gone; choose it again.');
        $result = $this->importFile->import($actor, $kind, $file['content'], $this->dryRun(), false, $progress->at(...));
        $lines = preg_split('/\r\n|\n|\r/', $file['content']) ?: [];
        if (!$this->dryRun() || [] !== $result['errors']) {
            $this->files->drop($actor->companyId, 'import', $id);
        }

        return new Slice($result['created'], false, ['name' => $file['name'], 'created' => $result['created'], 'errors' => array_map(static fn (Problem $p): array => ['line' => $p->line, 'field' => $p->field, 'message' => $p->message, 'text' => mb_strimwidth(mb_scrub($lines[($p->line ?? 1) - 1] ?? ''), 0, 120, '…')], $result['errors'])]);
    }
}
