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
            $open = [];
            foreach ($result->in as $d) {
                $open[$d->candidate->item->id] = $d->candidate->item->open;
            }
            $this->mustBeAsPlanned($actor, $open);
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
            $this->items->reserve(array_keys($open), $proposal->reservation());
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

    /**
     * Locks the items, in order of their ids.
     *
     * @param array<int, int> $open what was open of each when it was planned, by id
     *
     * @throws Refused naming the first that somebody else settled or reserved
     */
    private function mustBeAsPlanned(Actor $actor, array $open): void
    {
        foreach ($this->items->locked($actor, array_keys($open)) as $item) {
            if (null !== $item['reserved_by_id'] || (int) $item['open'] !== $open[(int) $item['id']]) {
                throw Refused::because(
                    '',
                    \sprintf(
                        '%s was settled or reserved by somebody else just now; make the proposal again.',
                        $item['number'],
                    ),
                );
            }
        }
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
