<?php

declare(strict_types=1);

namespace Nelbix\App\Settlement;

use Nelbix\App\Platform\Actor;
use Nelbix\App\Platform\History;
use Nelbix\App\Platform\Transaction;
use Nelbix\Core\Refused;

/** Undoes a settlement: its items open again, what it posted is reversed. Undoing twice is refused. */
final readonly class UndoSettlement
{
    public function __construct(private Transaction $transaction, private SettlementBook $book, private History $history)
    {
    }

    /** @throws Refused */
    public function undo(Actor $actor, int $settlementId): Settlement
    {
        return $this->transaction->run(function () use ($actor, $settlementId): Settlement {
            $settlement = $this->book->undo($actor, $settlementId);
            if (null !== $settlement->documentId) {
                $this->history->note($actor, 'document', $settlement->documentId, 'settlement undone', 'dated '.$settlement->undoneOn?->long());
            }

            return $settlement;
        });
    }
}
