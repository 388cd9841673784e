<?php

declare(strict_types=1);

namespace Nelbix\App\Payables;

use Doctrine\ORM\EntityManagerInterface;
use Nelbix\App\Books\OpenItemRecord;
use Nelbix\App\Platform\Actor;
use Nelbix\App\Platform\History;
use Nelbix\App\Platform\Transaction;
use Nelbix\Core\Refused;

/** Gives an item of a proposal in review a payment of its own, or puts it back with the others of its vendor. */
final readonly class PayApart
{
    public function __construct(
        private Transaction $transaction,
        private EntityManagerInterface $entities,
        private ProposalDesk $desk,
        private History $history,
    ) {
    }

    /**
     * @return bool true when it is paid apart now, false when it is paid with the others again
     *
     * @throws Refused for a credit, or when what is left would leave nothing to pay
     */
    public function turn(Actor $actor, int $proposalId, int $itemId): bool
    {
        return $this->transaction->run(function () use ($actor, $proposalId, $itemId): bool {
            $proposal = $this->desk->change($actor, $proposalId, [ProposalState::Review, ProposalState::Refused]);
            $line = $this->entities
                ->getRepository(ProposalLine::class)
                ->findOneBy(['proposal' => $proposal, 'itemId' => $itemId, 'isIn' => true, 'dropped' => false]);
            if (null === $line || null === $line->payment) {
                throw Refused::because('items', 'This item is not paid by this proposal; take it in first.');
            }
            if ($line->pay() <= 0) {
                throw Refused::because('items', 'A credit is paid with what it lowers; pay another item apart.');
            }
            $payments = $this->desk->payments($proposal);
            $own = $payments[$line->payment];
            $with = $this->with($payments, $own['record'], \count($own['lines']) > 1);
            if (null === $with) {
                if ($own['amount'] - $line->pay() <= 0) {
                    throw Refused::because(
                        'items',
                        'Without it the credits of this payment would leave nothing to pay; drop a credit first.',
                    );
                }
                $with = $this->another($proposal, $own['record']);
            }
            $apart = \count($own['lines']) > 1;
            $line->payment = $with->payment;
            if (ProposalState::Refused === $proposal->state) {
                $proposal->state = ProposalState::Review;
            }
            $this->history->note(
                $actor,
                'proposal',
                $proposal->id(),
                $apart ? 'paid apart' : 'paid with the others',
                (string) $this->entities->find(OpenItemRecord::class, $itemId)?->number,
            );

            return $apart;
        });
    }

    /**
     * The payment that a lone item goes back to: the first of its payee; null when it shares one and leaves it.
     *
     * @param array<int, array{amount: int, lines: non-empty-list<ProposalLine>, record: ProposalPayment}> $payments
     *
     * @throws Refused when there is no other
     */
    private function with(array $payments, ProposalPayment $own, bool $shared): ?ProposalPayment
    {
        if ($shared) {
            return null;
        }
        foreach ($payments as $p) {
            if ($p['record']->partyId === $own->partyId && $p['record']->payment !== $own->payment) {
                return $p['record'];
            }
        }
        throw Refused::because('items', 'It is paid alone already.');
    }

    private function another(Proposal $proposal, ProposalPayment $like): ProposalPayment
    {
        $last = $this->entities
            ->getRepository(ProposalPayment::class)
            ->findOneBy(['proposal' => $proposal], ['payment' => 'DESC']);
        $payment = new ProposalPayment($proposal, ($last->payment ?? 0) + 1, $like->partyId, $like->payBy);
        $payment->partyBankId = $like->partyBankId;
        $this->entities->persist($payment);

        return $payment;
    }
}
