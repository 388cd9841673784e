<?php

declare(strict_types=1);

namespace Nelbix\App\Import;

use Nelbix\App\Books\LotBook;
use Nelbix\App\Books\LotState;
use Nelbix\App\Platform\Actor;
use Nelbix\App\Platform\Transaction;
use Nelbix\Core\Refused;

/** A file that stopped in the middle is gone on with, where it stopped. */
final readonly class GoOnWithLot
{
    public function __construct(
        private Transaction $transaction,
        private LotBook $lots,
        private ImportLongFile $longFile,
    ) {
    }

    /** @throws Refused while it is worked on, and once it is through or taken back */
    public function start(Actor $actor, int $lotId): void
    {
        $this->transaction->run(function () use ($actor, $lotId): void {
            $lot = $this->lots->locked($actor, $lotId, LotState::UnderWay);
            $this->longFile->goOn($actor, $lot->fileId, $lot->kind, $lot->records - $lot->posted);
        });
    }
}
