<?php

declare(strict_types=1);

namespace Nelbix\App\Payables;

use Nelbix\App\Platform\Actor;
use Nelbix\App\Platform\Transaction;
use Nelbix\App\Work\StartWork;
use Nelbix\Core\Refused;

/**
 * Starts the posting of an approved run whose checks all came out, or goes on with one that was stopped on its way. All that would
 * refuse it is looked at first, while nothing is posted.
 */
final readonly class StartRun
{
    public function __construct(
        private Transaction $transaction,
        private ProposalDesk $desk,
        private RunCheck $check,
        private PostRun $postRun,
        private StartWork $startWork,
    ) {
    }

    /**
     * @return int the job that posts it
     *
     * @throws Refused while anything of it cannot be posted; nothing is then
     */
    public function start(Actor $actor, int $proposalId): int
    {
        return $this->transaction->run(function () use ($actor, $proposalId): int {
            $proposal = $this->desk->lock($actor, $proposalId, [
                ProposalState::Approved,
                ProposalState::Printed,
                ProposalState::Posting,
            ]);
            $payments = $this->desk->toPost($proposalId);
            if ([] === $payments && ProposalState::Posting !== $proposal->state) {
                throw Refused::because('', 'Everything was dropped from this run; there is nothing to post.');
            }
            if ([] !== $payments) {
                $this->check->mayPost($proposal, $payments);
            }
            $proposal->state = ProposalState::Posting;

            return $this->startWork->start(
                $actor,
                $this->postRun,
                $proposalId,
                'Run '.$proposal->number,
                \count($payments),
            );
        });
    }
}
