<?php

declare(strict_types=1);

namespace Nelbix\App\Payables;

use Doctrine\DBAL\LockMode;
use Doctrine\ORM\EntityManagerInterface;
use Nelbix\App\Platform\Actor;
use Nelbix\Core\Refused;

/** Finds proposals and their lines for the use cases that move them on; locked, and of the actor's company. */
final readonly class ProposalDesk
{
    public function __construct(private EntityManagerInterface $entities)
    {
    }

    /**
     * @param list<ProposalState> $in states in which the step makes sense
     *
     * @throws Refused when it is in another state
     */
    public function lock(Actor $actor, int $proposalId, array $in): Proposal
    {
        $proposal = $this->entities->find(Proposal::class, $proposalId, LockMode::PESSIMISTIC_WRITE);
        if (null === $proposal || $proposal->companyId !== $actor->companyId) {
            throw Refused::because('', 'There is no such proposal in this company.');
        }
        $this->entities->refresh($proposal, LockMode::PESSIMISTIC_WRITE);
        if (!\in_array($proposal->state, $in, true)) {
            throw Refused::because('', \sprintf('Proposal %s is %s; this step does not fit any more. Load the page anew.', $proposal->number, $proposal->state->words()));
        }

        return $proposal;
    }

    /**
     * @param list<int>|null $only the numbers of these payments; null for all
     *
     * @return array<int, array{amount: int, lines: non-empty-list<ProposalLine>, record: ProposalPayment}> by payment, of those with a line that stands
     */
    public function payments(Proposal $proposal, ?array $only = null): array
    {
        $lines = [];
        foreach ($this->standing($proposal, $only) as $line) {
            $lines[(int) $line->payment][] = $line;
        }
        $payments = [];
        foreach ($this->entities->getRepository(ProposalPayment::class)->findBy(['proposal' => $proposal, 'payment' => array_keys($lines)], ['payment' => 'ASC']) as $record) {
            if (isset($lines[$record->payment])) {
                $payments[$record->payment] = ['amount' => array_sum(array_map(static fn (ProposalLine $l): int => $l->pay(), $lines[$record->payment])), 'lines' => $lines[$record->payment], 'record' => $record];
            }
        }

        return $payments;
    }

    /**
     * @param list<int>|null $only
     *
     * @return list<ProposalLine> what is in and not dropped, by payment
     */
    private function standing(Proposal $proposal, ?array $only): array
    {
        $query = $this->entities->createQueryBuilder()->select('l')->from(ProposalLine::class, 'l')->where('l.proposal = :proposal AND l.isIn = true AND l.dropped = false')->orderBy('l.payment')->addOrderBy('l.id')->setParameter('proposal', $proposal);
        if (null !== $only) {
            $query->andWhere('l.payment IN (:only)')->setParameter('only', $only);
        }

        /** @var list<ProposalLine> */
        return $query->getQuery()->getResult();
    }
}
