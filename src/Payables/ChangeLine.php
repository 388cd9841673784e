<?php

declare(strict_types=1);

namespace Nelbix\App\Payables;

use Doctrine\ORM\EntityManagerInterface;
use Nelbix\App\Books\LapsedDiscount;
use Nelbix\App\Platform\Actor;
use Nelbix\App\Platform\History;
use Nelbix\App\Platform\Transaction;
use Nelbix\Core\Money\AmountInput;
use Nelbix\Core\Money\Currency;
use Nelbix\Core\Money\Money;
use Nelbix\Core\OpenItems\OpenItem;
use Nelbix\Core\Refused;

/** Pays part of an item, or all of it without its discount; or puts a line back to what the rules gave. */
final readonly class ChangeLine
{
    public function __construct(
        private Transaction $transaction,
        private EntityManagerInterface $entities,
        private ProposalDesk $desk,
        private CandidateQuery $candidates,
        private LapsedDiscount $lapsedDiscount,
        private History $history,
    ) {
    }

    /**
     * @param string $pay what is to be paid on the item before withholding, as typed; empty for all of it
     * @param bool $discount take the discount that holds on the pay date
     * @param bool $lapsed keep the discount of a payment that was voided, on all of the item
     *
     * @throws Refused when it is more than is open, or zero
     */
    public function change(
        Actor $actor,
        int $proposalId,
        int $itemId,
        string $pay,
        bool $discount,
        bool $lapsed = false,
    ): void {
        $this->transaction->run(function () use ($actor, $proposalId, $itemId, $pay, $discount, $lapsed): void {
            $proposal = $this->desk->change($actor, $proposalId, [ProposalState::Review, ProposalState::Refused]);
            $line = $this->entities
                ->getRepository(ProposalLine::class)
                ->findOneBy(['proposal' => $proposal, 'itemId' => $itemId, 'isIn' => true, 'dropped' => false]);
            $candidate = $this->candidates->open($actor->companyId, [$itemId])[0] ?? null;
            if (null === $line || null === $candidate) {
                throw Refused::because('pay', 'This item is not in the proposal; load the page anew.');
            }
            $item = $candidate->item;
            $full = abs($item->open) - ($discount ? $line->offered : 0);
            $amount = '' === trim($pay) ? $full : AmountInput::read($pay, Currency::of($item->currency), 'pay')->minor;
            if ($amount <= 0 || $amount > abs($item->open)) {
                throw Refused::because(
                    'pay',
                    \sprintf(
                        '%s has %s %s open; pay something above zero up to that, or drop it.',
                        $item->number,
                        Money::of(abs($item->open), $item->currency)->decimal(),
                        $item->currency,
                    ),
                );
            }
            $kept = $lapsed ? $this->lapsed($item, $line, $pay) : 0;
            $settled =
                0 !== $kept
                    ? ['settled' => $item->open, 'discount' => $kept]
                    : ($item->open > 0 && $discount && null !== $item->discount
                        ? $item->discount->onPayment($item->open, $amount, $proposal->payDate)
                        : ['settled' => $amount, 'discount' => 0]);
            $line->applied = $item->open < 0 ? -$settled['settled'] : $settled['settled'];
            $line->discount = $settled['discount'];
            $line->withholding = (int) $candidate->withholding?->on(
                $line->applied,
                $line->discount,
                $line->applied === $item->open,
            );
            $proposal->state = ProposalState::Review;
            $this->history->note(
                $actor,
                'proposal',
                $proposal->id(),
                'changed '.$item->number,
                \sprintf(
                    'pays %s, discount %s',
                    Money::of($line->pay(), $item->currency)->decimal(),
                    Money::of($line->discount, $item->currency)->decimal(),
                ),
            );
        });
    }

    /** @throws Refused where there is none to keep */
    private function lapsed(OpenItem $item, ProposalLine $line, string $pay): int
    {
        $kept = $this->lapsedDiscount->of($item->id);
        if (0 === $kept || 0 !== $line->offered || $kept >= $item->open) {
            throw Refused::because(
                'lapsed',
                \sprintf('No voided payment of %s had a discount that could be kept.', $item->number),
            );
        }
        if ('' !== trim($pay)) {
            throw Refused::because(
                'pay',
                'The discount of the voided payment is kept on all of the item; leave the amount empty.',
            );
        }

        return $kept;
    }
}
