<?php

declare(strict_types=1);

namespace Nelbix\App\Pairing;

use Nelbix\App\Platform\Actor;
use Nelbix\App\Platform\History;
use Nelbix\App\Platform\Transaction;
use Nelbix\Core\Refused;
use Psr\Clock\ClockInterface;

/** Somebody says whether what a rule asks about belongs together. */
final readonly class DecidePair
{
    public function __construct(
        private Transaction $transaction,
        private PairingLock $lock,
        private KeepPairs $keep,
        private History $history,
        private ClockInterface $clock,
    ) {
    }

    /** @throws Refused when it was decided already */
    public function decide(Actor $actor, int $setId, int $pairId, bool $yes): void
    {
        $this->transaction->run(function () use ($actor, $setId, $pairId, $yes): void {
            $set = $this->lock->set($actor, $setId);
            $pair = $this->lock->pair($set, $pairId);
            if (PairState::Asked !== $pair->state) {
                throw Refused::because('', 'It was decided already; load the page anew.');
            }
            $pair->state = $yes ? PairState::Confirmed : PairState::Undone;
            $pair->decidedById = $actor->userId;
            $pair->decidedAt = $this->clock->now();
            if (!$yes) {
                $this->keep->free([$pairId]);
            }
            $this->history->note(
                $actor,
                'pairing_set',
                $setId,
                $yes ? 'pair confirmed' : 'pair refused',
                (string) $pairId,
            );
        });
    }
}
