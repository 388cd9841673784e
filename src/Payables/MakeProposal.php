<?php

declare(strict_types=1);

namespace Nelbix\App\Payables;

use Doctrine\ORM\EntityManagerInterface;
use Nelbix\App\Books\ItemLocks;
use Nelbix\App\Platform\Actor;
use Nelbix\App\Platform\Bulk;
use Nelbix\App\Platform\FormKey;
use Nelbix\App\Platform\History;
use Nelbix\App\Platform\Numbering;
use Nelbix\App\Platform\Transaction;
use Nelbix\Core\Proposal\Criteria;
use Nelbix\Core\Proposal\Decision;
use Nelbix\Core\Proposal\ProposalResult;
use Nelbix\Core\Proposal\Proposer;
use Nelbix\Core\Refused;
use Psr\Clock\ClockInterface;

/** Works a payment proposal out, and keeps it: what is in is reserved from then on. */
final readonly class MakeProposal
{
    public function __construct(
        private Transaction $transaction,
        private EntityManagerInterface $entities,
        private CandidateQuery $candidates,
        private ItemLocks $items,
        private Numbering $numbering,
        private History $history,
        private ClockInterface $clock,
        private Bulk $bulk,
    ) {
    }

    /** @param (\Closure(Decision): bool)|null $keep as Proposer::propose() takes it */
    public function workOut(Actor $actor, Criteria $criteria, ?\Closure $keep = null): ProposalResult
    {
        return Proposer::propose($criteria, $this->candidates->each($actor->companyId), $keep);
    }

    /**
     * @param array<string, string> $spoken the criteria as they were asked for
     *
     * @throws Refused when nothing is in
     */
    public function make(
        Actor $actor,
        Criteria $criteria,
        int $bankAccountId,
        string $method,
        array $spoken = [],
        ?FormKey $form = null,
    ): int {
        return $this->transaction->once($actor, 'proposal', $form, function () use (
            $actor,
            $criteria,
            $bankAccountId,
            $method,
            $spoken,
        ): int {
            // what stays out is remembered in short until the proposal it belongs to is there
            $out = [];
            $result = $this->workOut($actor, $criteria, static function (Decision $d) use (&$out): bool {
                $out[] = [$d->candidate->item->id, $d->reason, $d->candidate->item->open, $d->stake];

                return false;
            });
            if ([] === $result->in) {
                throw Refused::because(
                    'due_through',
                    'Nothing falls into this proposal; look at the reasons below, or choose a later due date.',
                );
            }
            $items = $this->items->lock(
                $actor,
                array_map(static fn (Decision $d): int => $d->candidate->item->id, $result->in),
            );
            foreach ($result->in as $d) {
                $item = $items[$d->candidate->item->id];
                if (null !== $item->reservedById || $item->open !== $d->candidate->item->open) {
                    throw Refused::because(
                        '',
                        \sprintf(
                            '%s was settled or reserved by somebody else just now; make the proposal again.',
                            $item->number,
                        ),
                    );
                }
            }
            $number = $this->numbering->document($actor->companyId, 'PP', $criteria->payDate);
            $proposal = new Proposal(
                $actor->companyId,
                $number,
                ProposalState::Review,
                $criteria->payDate,
                $criteria->dueThrough,
                $criteria->againOn,
                $bankAccountId,
                $method,
                $spoken,
                $actor->userId,
                $this->clock->now(),
            );
            $this->entities->persist($proposal);
            $this->entities->flush();
            $lines = $payments = [];
            foreach ($result->payments as $k => $payment) {
                $payments[] = new ProposalPayment(
                    $proposal,
                    $k + 1,
                    $payment->payee->id,
                    PayBy::of($payment->payee->method),
                );
                foreach ($payment->decisions as $d) {
                    $lines[] = $this->line($proposal, $d, $k + 1);
                }
            }
            $this->bulk->insert($lines);
            $this->bulk->insert($payments);
            foreach (array_chunk($out, 1000) as $some) {
                $this->bulk->insert(
                    array_map(
                        static fn (array $o): ProposalLine => new ProposalLine(
                            $proposal,
                            $o[0],
                            null,
                            false,
                            $o[1],
                            $o[2],
                            0,
                            $o[3],
                            0,
                        ),
                        $some,
                    ),
                );
            }
            foreach ($items as $item) {
                $item->reserve($proposal->reservation());
            }
            $this->history->note(
                $actor,
                'proposal',
                $proposal->id(),
                'made',
                \sprintf('%d items in, %d out', \count($result->in), $result->leftOut),
            );

            return $proposal->id();
        });
    }

    private function line(Proposal $proposal, Decision $d, int $payment): ProposalLine
    {
        return new ProposalLine(
            $proposal,
            $d->candidate->item->id,
            $payment,
            $d->in,
            $d->reason,
            $d->candidate->item->open,
            $d->discount,
            $d->stake,
            $d->withholding(),
        );
    }
}
