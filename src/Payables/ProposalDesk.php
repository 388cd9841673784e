<?php

declare(strict_types=1);

namespace Nelbix\App\Payables;

use Doctrine\DBAL\LockMode;
use Doctrine\ORM\EntityManagerInterface;
use Nelbix\App\People\SomebodyElse;
use Nelbix\App\Platform\Actor;
use Nelbix\Core\ProblemKind;
use Nelbix\Core\Refused;

/** Finds proposals and their lines for the use cases that move them on; locked, and of the actor's company. */
final readonly class ProposalDesk
{
    public function __construct(private EntityManagerInterface $entities, private SomebodyElse $somebodyElse)
    {
    }

    /**
     * @param list<ProposalState> $in states in which the step makes sense
     *
     * @throws Refused when it is in another state
     */
    public function lock(Actor $actor, int $proposalId, array $in): Proposal
    {
        // written and not only locked: another server of a cluster does not see a lock
        $this->entities
            ->getConnection()
            ->executeStatement('UPDATE proposal SET version = version + 1 WHERE id = ?', [$proposalId]);
        $proposal = $this->entities->find(Proposal::class, $proposalId, LockMode::PESSIMISTIC_WRITE);
        if (null === $proposal || $proposal->companyId !== $actor->companyId) {
            throw Refused::because('', 'There is no such proposal in this company.', ProblemKind::Unknown);
        }
        $this->entities->refresh($proposal, LockMode::PESSIMISTIC_WRITE);
        if (!\in_array($proposal->state, $in, true)) {
            throw Refused::because(
                '',
                \sprintf(
                    'Proposal %s is %s; this step does not fit any more. Load the page anew.',
                    $proposal->number,
                    $proposal->state->words(),
                ),
            );
        }

        return $proposal;
    }

    /**
     * The same for a step that changes what is paid: whoever takes it does not approve the proposal.
     *
     * @param list<ProposalState> $in
     *
     * @throws Refused
     */
    public function change(Actor $actor, int $proposalId, array $in): Proposal
    {
        $proposal = $this->lock($actor, $proposalId, $in);
        $this->somebodyElse->hadAHand($actor, 'proposal', $proposalId);

        return $proposal;
    }

    /**
     * The payments of a run that have something to pay and are not posted. Checks written by hand come first, in the order of their
     * numbers: their book hands them out so.
     *
     * @return list<int> their numbers
     */
    public function toPost(int $proposalId): array
    {
        return array_map(
            'intval',
            $this->entities->getConnection()->fetchFirstColumn(
                <<<SQL
                SELECT y.payment
                FROM (SELECT DISTINCT payment FROM proposal_line WHERE proposal_id = :id AND is_in = 1 AND dropped = 0) l
                JOIN proposal_payment y ON y.proposal_id = :id AND y.payment = l.payment
                WHERE y.document_id IS NULL
                ORDER BY y.pay_by = 'hand' DESC, IF(y.pay_by = 'hand', LENGTH(y.reference), 0),
                    IF(y.pay_by = 'hand', y.reference, ''), y.payment
                SQL
                ,
                ['id' => $proposalId],
            ),
        );
    }

    /**
     * @return array<int, array{amount: int, lines: non-empty-list<ProposalLine>, record: ProposalPayment}> by payment,
     *                                                                                                      of those with a line that stands
     */
    public function payments(Proposal $proposal): array
    {
        $lines = [];
        foreach ($this->standing($proposal) as $line) {
            $lines[(int) $line->payment][] = $line;
        }
        $payments = [];
        foreach (
            $this->entities
                ->getRepository(ProposalPayment::class)
                ->findBy(['proposal' => $proposal, 'payment' => array_keys($lines)], ['payment' => 'ASC']) as $record
        ) {
            if (isset($lines[$record->payment])) {
                $payments[$record->payment] = [
                    'amount' => array_sum(
                        array_map(static fn (ProposalLine $l): int => $l->pay(), $lines[$record->payment]),
                    ),
                    'lines' => $lines[$record->payment],
                    'record' => $record,
                ];
            }
        }

        return $payments;
    }

    /** @return list<ProposalLine> what is in and not dropped, by payment */
    private function standing(Proposal $proposal): array
    {
        /** @var list<ProposalLine> */
        return $this->entities
            ->createQuery(
                'SELECT l FROM '.
                    ProposalLine::class.
                    ' l WHERE l.proposal = :proposal AND l.isIn = true AND l.dropped = false ORDER BY l.payment, l.id',
            )
            ->setParameter('proposal', $proposal)
            ->getResult();
    }
}
