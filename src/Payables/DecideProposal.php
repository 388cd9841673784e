<?php

declare(strict_types=1);

namespace Nelbix\App\Payables;

use Doctrine\DBAL\Connection;
use Nelbix\App\Books\MayPay;
use Nelbix\App\Ledger\Rates;
use Nelbix\App\People\SomebodyElse;
use Nelbix\App\Platform\Actor;
use Nelbix\App\Platform\History;
use Nelbix\App\Platform\Transaction;
use Nelbix\Core\Ledger\InvoiceEntry;
use Nelbix\Core\ProblemKind;
use Nelbix\Core\Refused;
use Psr\Clock\ClockInterface;

/** Approves a proposal, or sends it back with a reason. Never by the person who made or changed it. */
final readonly class DecideProposal
{
    public function __construct(
        private Transaction $transaction,
        private ProposalDesk $desk,
        private History $history,
        private ClockInterface $clock,
        private Connection $db,
        private Underneath $underneath,
        private Rates $rates,
        private SomebodyElse $somebodyElse,
        private ApprovedPayees $approvedPayees,
        private MayPay $mayPay,
    ) {
    }

    /**
     * @param int|null $seen version of the proposal on the page that the person looked at; null when there was no page
     *
     * @throws Refused also when it was changed since the person looked
     */
    public function decide(Actor $actor, int $proposalId, bool $approve, string $reason = '', ?int $seen = null): void
    {
        $this->transaction->run(function () use ($actor, $proposalId, $approve, $reason, $seen): void {
            $proposal = $this->desk->lock($actor, $proposalId, [ProposalState::Review]);
            // the lock itself counted one up
            if (null !== $seen && $proposal->version !== $seen + 1) {
                throw Refused::because(
                    '',
                    \sprintf(
                        'Proposal %s was changed since this page was loaded; look at it as it stands now, and decide then.',
                        $proposal->number,
                    ),
                    ProblemKind::Taken,
                );
            }
            if ($approve) {
                $this->somebodyElse->mustBe(
                    $actor,
                    'proposal',
                    $proposalId,
                    $proposal->createdById,
                    'Somebody else must approve this proposal; you made or changed it.',
                );
            }
            $payments = $this->desk->payments($proposal);
            if ($approve && [] === $payments) {
                throw Refused::because('', 'Everything was dropped from this proposal; there is nothing to approve.');
            }
            foreach ($payments as $payment) {
                if ($approve && $payment['amount'] <= 0) {
                    throw Refused::because(
                        '',
                        'A payment of this proposal comes to zero or less since items were dropped; drop the vendor’s credits too.',
                    );
                }
            }
            if ($approve) {
                $lines = array_merge(...array_column($payments, 'lines'));
                $this->mayPay->mayBePaidBy($actor, array_map(static fn (ProposalLine $l): int => $l->itemId, $lines));
                $this->mayApprove($actor, $proposal, $payments);
            }
            if (!$approve && '' === trim($reason)) {
                throw Refused::because('reason', 'Say why it goes back.');
            }
            if ($approve) {
                $this->approvedPayees->keep($proposal->id());
            }
            $proposal->state = $approve ? ProposalState::Approved : ProposalState::Refused;
            $proposal->refusedReason = $approve ? null : mb_substr(trim($reason), 0, 255);
            $proposal->decidedById = $actor->userId;
            $proposal->decidedAt = $this->clock->now();
            $this->history->note($actor, 'proposal', $proposal->id(), $approve ? 'approved' : 'refused', $reason);
        });
    }

    /**
     * @param array<int, array{amount: int, lines: non-empty-list<ProposalLine>, record: ProposalPayment}> $payments
     *
     * @throws Refused over the person's limit, or while nobody has accepted what changed underneath
     */
    private function mayApprove(Actor $actor, Proposal $proposal, array $payments): void
    {
        $changes = $this->underneath->of($proposal->id());
        if (Underneath::digest($changes) !== $proposal->accepted && [] !== $changes) {
            throw Refused::because(
                '',
                \sprintf(
                    '%s Somebody must look at what changed and accept it, or change the proposal, before it is approved.',
                    $changes[0]['what'].
                        (\count($changes) > 1 ? \sprintf(' (and %d more).', \count($changes) - 1) : '.'),
                ),
            );
        }
        $currency = (string) $this->db->fetchOne('SELECT currency FROM open_item WHERE id = ?', [
            array_values($payments)[0]['lines'][0]->itemId,
        ]);
        $total = InvoiceEntry::base(
            array_sum(array_column($payments, 'amount')),
            $currency,
            $actor->baseCurrency,
            $this->rates->on($actor->companyId, $currency, $actor->baseCurrency, $proposal->payDate),
        );
        $this->somebodyElse->within($actor, $total, 'The run');
    }
}
