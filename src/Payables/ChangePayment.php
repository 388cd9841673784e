<?php

declare(strict_types=1);

namespace Nelbix\App\Payables;

use Doctrine\ORM\EntityManagerInterface;
use Nelbix\App\Parties\Party;
use Nelbix\App\Parties\PartyBanks;
use Nelbix\App\Platform\Actor;
use Nelbix\App\Platform\Fields;
use Nelbix\App\Platform\History;
use Nelbix\App\Platform\Transaction;
use Nelbix\Core\ProblemKind;
use Nelbix\Core\Refused;

/** Changes how a payment of a proposal goes out: its method, the account it goes to, the number of a check written by hand, a note. */
final readonly class ChangePayment
{
    public function __construct(
        private Transaction $transaction,
        private EntityManagerInterface $entities,
        private ProposalDesk $desk,
        private PartyBanks $banks,
        private History $history,
    ) {
    }

    /**
     * @param array<mixed> $raw pay_by, bank (an id of the payee's other accounts, empty for the first), reference,
     *                          note; a missing key changes nothing
     *
     * @throws Refused naming the field
     */
    public function change(Actor $actor, int $proposalId, int $payment, array $raw): void
    {
        $this->transaction->run(function () use ($actor, $proposalId, $payment, $raw): void {
            $fields = new Fields($raw);
            $review = [ProposalState::Review, ProposalState::Refused];
            // after approval only the number of what was written by hand is still to come
            $proposal = $this->desk->change(
                $actor,
                $proposalId,
                $fields->has('pay_by') || $fields->has('bank')
                    ? $review
                    : [...$review, ProposalState::Approved, ProposalState::Printed, ProposalState::Posting],
            );
            $record = $this->entities
                ->getRepository(ProposalPayment::class)
                ->findOneBy(['proposal' => $proposal, 'payment' => $payment]);
            if (null === $record) {
                throw Refused::because('', 'There is no such payment in this proposal.', ProblemKind::Unknown);
            }
            if (null !== $record->documentId) {
                throw Refused::because('', 'This payment is posted; what it says stands. Void it to pay another way.');
            }
            $said = [];
            if ($fields->has('pay_by')) {
                $by =
                    PayBy::tryFrom($fields->text('pay_by')) ??
                    throw Refused::because('pay_by', 'Choose how it is paid from the list.');
                if ($by !== $record->payBy) {
                    $said[] = 'by '.$by->words();
                }
                $record->payBy = $by;
            }
            if ($fields->has('bank')) {
                $bank = (int) $fields->text('bank') ?: null;
                $known = array_column($this->banks->of($record->partyId), null, 'id');
                if (null !== $bank && !isset($known[$bank])) {
                    throw Refused::because('bank', 'The payee has no such bank account.');
                }
                if ($bank !== $record->partyBankId) {
                    $said[] =
                        null === $bank ? 'to its first account' : 'to '.($known[$bank]['label'] ?: 'another account');
                }
                $record->partyBankId = $bank;
            }
            foreach (['reference' => 60, 'note' => 255] as $key => $most) {
                if (!$fields->has($key)) {
                    continue;
                }
                if (mb_strlen($fields->text($key)) > $most) {
                    throw Refused::because($key, \sprintf('This is longer than %d characters; shorten it.', $most));
                }
                if ($fields->text($key) !== $record->{$key}) {
                    $said[] = $key.' “'.$fields->text($key).'”';
                }
                $record->{$key} = $fields->text($key);
            }
            if ($fields->has('pay_by') || $fields->has('bank')) {
                $this->mustBeKnown($record);
                $proposal->state = ProposalState::Review;
            }
            if ([] !== $said) {
                $party = $this->entities->find(Party::class, $record->partyId);
                $this->history->note(
                    $actor,
                    'proposal',
                    $proposal->id(),
                    'changed the payment to '.($party->code ?? ''),
                    implode(', ', $said),
                );
            }
        });
    }

    /** @throws Refused when the money would go nowhere */
    private function mustBeKnown(ProposalPayment $payment): void
    {
        if (!$payment->payBy->needsBank() || null !== $payment->partyBankId) {
            return;
        }
        $party = $this->entities->find(Party::class, $payment->partyId);
        if (null !== $party && !$party->hasBankDetails()) {
            throw Refused::because(
                'pay_by',
                \sprintf('%s has no bank account on file; add it on its page, or pay another way.', $party->name),
            );
        }
    }
}
