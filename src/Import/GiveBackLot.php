<?php

declare(strict_types=1);

namespace Nelbix\App\Import;

use Nelbix\App\Books\LotBook;
use Nelbix\App\Books\LotState;
use Nelbix\App\Platform\Actor;
use Nelbix\App\Platform\FileStore;
use Nelbix\App\Platform\Permission;
use Nelbix\App\Platform\Transaction;
use Nelbix\App\Work\Job;
use Nelbix\App\Work\LongWork;
use Nelbix\App\Work\Progress;
use Nelbix\App\Work\Slice;
use Nelbix\App\Work\StartWork;
use Nelbix\Core\ProblemKind;
use Nelbix\Core\Refused;

/** A file that stopped in the middle is taken back: what of it is posted is undone, and the file may be taken over anew. */
final readonly class GiveBackLot implements LongWork
{
    private const RECORDS = 100;

    public function __construct(
        private Transaction $transaction,
        private LotBook $lots,
        private TakeRecordsBack $takeBack,
        private FilesTaken $taken,
        private FileStore $files,
        private StartWork $startWork,
    ) {
    }

    /**
     * @param string $reason stands at whatever is undone; one that stopped goes on with what it was begun with
     *
     * @throws Refused without a reason, or once the file is taken over whole
     */
    public function start(Actor $actor, int $lotId, string $reason): void
    {
        $this->transaction->run(function () use ($actor, $lotId, $reason): void {
            $lot = $this->lots->locked($actor, $lotId, LotState::UnderWay, LotState::TakingBack);
            if (LotState::UnderWay === $lot->state) {
                if ('' === trim($reason)) {
                    throw Refused::because(
                        'reason',
                        'Say why it is taken back; it stands at whatever is undone.',
                        ProblemKind::Missing,
                    );
                }
                $this->lots->turnBack($actor, $lot, $reason);
            }
            $this->startWork->start($actor, $this, $lotId, 'Taking back '.$lot->name, $lot->posted);
        });
    }

    public function kind(): string
    {
        return 'import-back';
    }

    public function seenWith(): ?Permission
    {
        return null;
    }

    public function route(): string
    {
        return 'import_lot';
    }

    public function onlyLooks(Job $job): bool
    {
        return false;
    }

    public function slice(Actor $actor, Job $job, Progress $progress): Slice
    {
        $lot = $this->lots->locked($actor, $job->subjectId, LotState::TakingBack);
        $records = $this->lots->letGo($actor, $lot, self::RECORDS);
        $this->takeBack->take($actor, $lot->holds, $records, $lot->reason);
        $done = \count($records);
        if (0 === $done) {
            $this->taken->end($lot->takenId, null);
            $this->files->drop($actor->companyId, 'import', $lot->fileId);
        }

        return new Slice($done, $done > 0);
    }
}
