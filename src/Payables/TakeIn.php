<?php

declare(strict_types=1);

namespace Nelbix\App\Payables;

use Doctrine\ORM\EntityManagerInterface;
use Nelbix\App\Books\ItemLocks;
use Nelbix\App\Platform\Actor;
use Nelbix\App\Platform\History;
use Nelbix\App\Platform\RecordCheck;
use Nelbix\App\Platform\Transaction;
use Nelbix\Core\Ledger\DocumentKind;
use Nelbix\Core\Proposal\Decision;
use Nelbix\Core\Proposal\Reason;
use Nelbix\Core\Refused;

/** Takes items into a proposal that its criteria left out, such as one that is not due yet. What must not be paid stays out. */
final readonly class TakeIn
{
    /** What the clerk may overrule; the others need a release, an approval or another run. */
    public const MAY = [
        Reason::NotDue,
        Reason::NothingToSetAgainst,
        Reason::Filtered,
        Reason::OtherMethod,
        Reason::BelowSmallest,
        Reason::OverCash,
        Reason::CreditsCover,
        Reason::Credit,
    ];

    public function __construct(
        private Transaction $transaction,
        private EntityManagerInterface $entities,
        private ProposalDesk $desk,
        private ItemLocks $items,
        private CandidateQuery $candidates,
        private History $history,
    ) {
    }

    /**
     * @param list<int> $itemIds
     *
     * @throws Refused naming the item that must stay out, and why
     */
    public function take(Actor $actor, int $proposalId, array $itemIds): void
    {
        $this->transaction->run(function () use ($actor, $proposalId, $itemIds): void {
            $items = $this->items->lock($actor, $itemIds);
            $proposal = $this->desk->change($actor, $proposalId, [ProposalState::Review, ProposalState::Refused]);
            /** @var list<ProposalLine> $lines */
            $lines = $this->entities
                ->getRepository(ProposalLine::class)
                ->findBy(['proposal' => $proposal, 'itemId' => $itemIds, 'isIn' => false]);
            $candidates = [];
            foreach ($this->candidates->open($actor->companyId, $itemIds) as $candidate) {
                $candidates[$candidate->item->id] = $candidate;
            }
            $known = array_map(static fn (ProposalLine $l): int => $l->itemId, $lines);
            foreach (array_diff(array_keys($items), $known) as $id) {
                // a credit that came after the proposal was made has no line in it yet
                if (
                    $items[$id]->open >= 0
                    || null ===
                        $this->entities
                            ->getRepository(ProposalPayment::class)
                            ->findOneBy(['proposal' => $proposal, 'partyId' => $items[$id]->partyId])
                    || null !==
                        $this->entities
                            ->getRepository(ProposalLine::class)
                            ->findOneBy(['proposal' => $proposal, 'itemId' => $id])
                ) {
                    throw Refused::because('', 'An item is not among those that this proposal left out.');
                }
                $this->entities->persist(
                    $lines[] = new ProposalLine($proposal, $id, null, false, Reason::Credit, $items[$id]->open, 0, 0),
                );
            }
            foreach ($lines as $line) {
                $item = $items[$line->itemId];
                $candidate = $candidates[$line->itemId] ?? null;
                if (null === $candidate || $item->open !== $line->open || null !== $item->reservedById) {
                    throw Refused::because(
                        '',
                        \sprintf('%s was settled or reserved by now; it cannot come in.', $item->number),
                    );
                }
                if (
                    !\in_array($line->reason, self::MAY, true)
                    || $candidate->held
                    || $candidate->payee->stopped
                    || $candidate->awaitingApproval
                    || $candidate->item->posted->isAfter($proposal->payDate)
                    || $candidate->isPrepayment
                    || DocumentKind::Refund === $candidate->item->kind
                ) {
                    throw Refused::because(
                        '',
                        \sprintf(
                            '%s stays out: %s.',
                            $item->number,
                            Reason::CreditsCover === $line->reason
                            && ($candidate->isPrepayment
                                || ($candidate->item->open > 0 && DocumentKind::Refund === $candidate->item->kind))
                                ? 'it is settled without money'
                                : $line->reason->words(),
                        ),
                    );
                }
                $decision = new Decision(
                    $candidate,
                    true,
                    $line->reason,
                    $candidate->item->discountOn($proposal->payDate),
                );
                $payment = $this->payment(
                    $proposal,
                    $candidate->payee->id,
                    PayBy::of($candidate->payee->method),
                    ($candidate->payee->separatePayments
                        || RecordCheck::yes($proposal->criteria['per_invoice'] ?? ''))
                        && $line->open > 0,
                );
                $line->payment = $payment->payment;
                $line->isIn = true;
                $line->added = true;
                $line->dropped = false;
                $line->applied = $line->open;
                $line->discount = $line->offered = $decision->discount;
                $line->withholding = $decision->withholding();
                $item->reserve($proposal->reservation());
                $this->entities->flush();
                $this->history->note($actor, 'proposal', $proposal->id(), 'took in '.$item->number);
            }
            $proposal->state = ProposalState::Review;
        });
    }

    /** The payee's payment, or a new one. */
    private function payment(Proposal $proposal, int $partyId, PayBy $payBy, bool $ofItsOwn): ProposalPayment
    {
        $repository = $this->entities->getRepository(ProposalPayment::class);
        $known = $ofItsOwn
            ? null
            : $repository->findOneBy(['proposal' => $proposal, 'partyId' => $partyId], ['payment' => 'ASC']);
        if (null !== $known) {
            return $known;
        }
        $last = $repository->findOneBy(['proposal' => $proposal], ['payment' => 'DESC']);
        $payment = new ProposalPayment($proposal, ($last->payment ?? 0) + 1, $partyId, $payBy);
        $this->entities->persist($payment);

        return $payment;
    }
}
