<?php

declare(strict_types=1);

namespace Nelbix\App\Payables;

use Nelbix\App\Platform\Actor;
use Nelbix\App\Platform\History;
use Nelbix\App\Platform\Transaction;
use Nelbix\Core\Refused;
use Psr\Clock\ClockInterface;

/** Approves a proposal, or sends it back with a reason. Never by the person who made or changed it. */
final readonly class DecideProposal
{
    public function __construct(private Transaction $transaction, private ProposalDesk $desk, private History $history, private ClockInterface $clock, private \Doctrine\DBAL\Connection $db)
    {
    }

    /** @throws Refused */
    public function decide(Actor $actor, int $proposalId, bool $approve, string $reason = ''): void
    {
        $this->transaction->run(function () use ($actor, $proposalId, $approve, $reason): void {
            $proposal = $this->desk->lock($actor, $proposalId, [ProposalState::Review]);
            $touched = (bool) $this->db->fetchOne("SELECT 1 FROM history WHERE company_id = ? AND subject = 'proposal' AND subject_id = ? AND user_id = ? LIMIT 1", [$actor->companyId, $proposalId, $actor->userId]);
            if ($approve && ($touched || $proposal->createdById === $actor->userId)) {
                throw Refused::because('', 'Somebody else must approve this proposal; you made or changed it.');
            }
            $payments = $this->desk->payments($proposal);
            if ($approve && [] === $payments) {
                throw Refused::because('', 'Everything was dropped from this proposal; there is nothing to approve.');
            }
            foreach ($payments as $payment) {
                if ($approve && $payment['amount'] <= 0) {
                    throw Refused::because('', 'A payment of this proposal comes to zero or less since items were dropped; drop the vendor’s credits too.');
                }
            }
            if (!$approve && '' === trim($reason)) {
                throw Refused::because('reason', 'Say why it goes back.');
            }
            $proposal->state = $approve ? ProposalState::Approved : ProposalState::Refused;
            $proposal->refusedReason = $approve ? null : mb_substr(trim($reason), 0, 255);
            $proposal->decidedById = $actor->userId;
            $proposal->decidedAt = $this->clock->now();
            $this->history->note($actor, 'proposal', $proposal->id(), $approve ? 'approved' : 'refused', $reason);
        });
    }
}
