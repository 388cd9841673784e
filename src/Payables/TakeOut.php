<?php

declare(strict_types=1);

namespace Nelbix\App\Payables;

use Doctrine\ORM\EntityManagerInterface;
use Nelbix\App\Bank\BankCheck;
use Nelbix\App\Bank\CheckState;
use Nelbix\App\Books\ItemLocks;
use Nelbix\App\Parties\Party;
use Nelbix\App\Platform\Actor;
use Nelbix\App\Platform\History;
use Nelbix\App\Platform\Transaction;
use Nelbix\App\Work\JobQuery;
use Nelbix\Core\Refused;

/**
 * Takes a payment out of a run after it was approved: whatever stops it between approval and posting stops this payment only. Its
 * items are free again, its check is void. Nothing that is approved changes, so the rest needs no new approval.
 */
final readonly class TakeOut
{
    public function __construct(
        private Transaction $transaction,
        private EntityManagerInterface $entities,
        private ProposalDesk $desk,
        private ItemLocks $items,
        private JobQuery $jobs,
        private History $history,
    ) {
    }

    /**
     * @param int $payment its number within the run
     *
     * @throws Refused without a reason, once it is posted, or while the run is being posted
     */
    public function take(Actor $actor, int $proposalId, int $payment, string $reason): void
    {
        $this->transaction->run(function () use ($actor, $proposalId, $payment, $reason): void {
            $this->items->hold($this->items($proposalId, $payment));
            $proposal = $this->desk->lock($actor, $proposalId, [
                ProposalState::Approved,
                ProposalState::Printed,
                ProposalState::Posting,
            ]);
            $record = $this->entities
                ->getRepository(ProposalPayment::class)
                ->findOneBy(['proposal' => $proposal, 'payment' => $payment]);
            $this->check($proposal, $record, $reason);
            foreach ($this->items->lock($actor, $this->items($proposalId, $payment)) as $item) {
                $item->reserve(null);
            }
            /** @var list<ProposalLine> $lines */
            $lines = $this->entities
                ->getRepository(ProposalLine::class)
                ->findBy(['proposal' => $proposal, 'payment' => $payment, 'isIn' => true, 'dropped' => false]);
            foreach ($lines as $line) {
                $line->dropped = true;
            }
            $this->voidCheck($proposalId, $payment, $reason);
            $this->entities->flush();
            if ([] === $this->desk->toPost($proposalId)) {
                $proposal->state =
                    ProposalState::Posting === $proposal->state ? ProposalState::Posted : ProposalState::Dropped;
            }
            $party = null === $record ? null : $this->entities->find(Party::class, $record->partyId);
            $this->history->note(
                $actor,
                'proposal',
                $proposalId,
                'took out the payment to '.($party->code ?? ''),
                trim($reason),
            );
        });
    }

    /** @throws Refused */
    private function check(Proposal $proposal, ?ProposalPayment $record, string $reason): void
    {
        if (null === $record || [] === $this->items($proposal->id(), $record->payment)) {
            throw Refused::because('payment', 'This payment is not in the run any more; load the page anew.');
        }
        if (null !== $record->documentId) {
            throw Refused::because('payment', 'This payment is posted; void it instead.');
        }
        if ('' === trim($reason)) {
            throw Refused::because('reason', 'Say why it is taken out.');
        }
        $job = $this->jobs->last('run', $proposal->id());
        if (ProposalState::Posting === $proposal->state && null !== $job && $job['state']->underWay()) {
            throw Refused::because('payment', 'The run is being posted right now; wait until it ends or stops.');
        }
    }

    /** Its number is used up, whether the paper came out or not; one that was not printed yet is void as well. */
    private function voidCheck(int $proposalId, int $payment, string $reason): void
    {
        /** @var list<BankCheck> $checks */
        $checks = $this->entities->getRepository(BankCheck::class)->findBy([
            'proposalId' => $proposalId,
            'payment' => $payment,
            'state' => [CheckState::Reserved, CheckState::Printed],
        ]);
        foreach ($checks as $check) {
            $check->state = CheckState::Voided;
            $check->reason = mb_substr(trim($reason), 0, 255);
        }
    }

    /** @return list<int> */
    private function items(int $proposalId, int $payment): array
    {
        return array_map(
            'intval',
            $this->entities
                ->getConnection()
                ->fetchFirstColumn(
                    'SELECT item_id FROM proposal_line WHERE proposal_id = ? AND payment = ? AND is_in = 1 AND dropped = 0',
                    [$proposalId, $payment],
                ),
        );
    }
}
