<?php

declare(strict_types=1);

namespace Nelbix\App\Import;

use Nelbix\App\Platform\Actor;
use Nelbix\App\Platform\FileStore;
use Nelbix\App\Work\Worker;
use Nelbix\Core\Problem;
use Nelbix\Core\Refused;

/** A long file of what is posted from the command line: the same long work as from the page, done here to its end. */
final readonly class ImportInSlices
{
    public function __construct(
        private TakeInSlices $slices,
        private ImportLongFile $longFile,
        private FileStore $files,
        private Worker $worker,
    ) {
    }

    /**
     * @param bool $approved what would wait for an approval is posted
     *
     * @return array{created: int, errors: list<Problem>}|null null for a file that is taken at once
     *
     * @throws Refused when it stopped in the middle; it is gone on with, or taken back, from the page
     */
    public function import(Actor $actor, string $kind, string $name, string $bytes, bool $again, bool $approved): ?array
    {
        if (!$this->slices->takes($kind, $bytes)) {
            return null;
        }
        $file = $this->files->keep($actor, 'import', null, $name, $bytes, ['text/csv']);
        $job = $this->worker->finish($this->longFile->start($actor, $file, $kind, $bytes, false, $again, $approved));
        if (null === $job->result) {
            throw Refused::because('', $job->said);
        }
        /** @var list<array{line: ?int, field: string, message: string}> $errors */
        $errors = $job->result['errors'];

        return [
            'created' => (int) $job->result['created'],
            'errors' => array_map(
                static fn (array $e): Problem => new Problem($e['field'], $e['message'], $e['line']),
                $errors,
            ),
        ];
    }
}
