<?php

declare(strict_types=1);

namespace Nelbix\App\Payables;

use Nelbix\App\Platform\Actor;
use Nelbix\App\Platform\History;
use Nelbix\App\Platform\Transaction;
use Nelbix\Core\Refused;

/** Says that what changed underneath a proposal was seen and the proposal stands as it is. */
final readonly class AcceptChanges
{
    public function __construct(
        private Transaction $transaction,
        private ProposalDesk $desk,
        private Underneath $underneath,
        private History $history,
    ) {
    }

    /**
     * @param string $digest of the changes as the clerk saw them
     *
     * @throws Refused when other things changed meanwhile
     */
    public function accept(Actor $actor, int $proposalId, string $digest): void
    {
        $this->transaction->run(function () use ($actor, $proposalId, $digest): void {
            $proposal = $this->desk->change($actor, $proposalId, [ProposalState::Review, ProposalState::Refused]);
            $changes = $this->underneath->of($proposalId);
            if (Underneath::digest($changes) !== $digest || '' === $digest) {
                throw Refused::because('', 'Something else changed meanwhile; look at the list again.');
            }
            $proposal->accepted = $digest;
            $this->history->note(
                $actor,
                'proposal',
                $proposalId,
                'accepted what changed',
                mb_strimwidth(implode('; ', array_column($changes, 'what')), 0, 900, '…'),
            );
        });
    }
}
