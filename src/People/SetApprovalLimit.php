<?php

declare(strict_types=1);

namespace Nelbix\App\People;

use Doctrine\ORM\EntityManagerInterface;
use Nelbix\App\Platform\Actor;
use Nelbix\App\Platform\History;
use Nelbix\App\Platform\Transaction;
use Nelbix\Core\Money\AmountInput;
use Nelbix\Core\Money\Currency;
use Nelbix\Core\Money\Money;
use Nelbix\Core\Refused;

/** Says up to which amount a person may approve payment runs of the company. */
final readonly class SetApprovalLimit
{
    public function __construct(
        private Transaction $transaction,
        private EntityManagerInterface $entities,
        private History $history,
    ) {
    }

    /**
     * @param string $limit as typed, in base currency; empty for any amount
     *
     * @throws Refused when the person does not belong to the company, or the amount cannot be read
     */
    public function set(Actor $actor, int $membershipId, string $limit): string
    {
        return $this->transaction->run(function () use ($actor, $membershipId, $limit): string {
            $membership = $this->entities->find(Membership::class, $membershipId);
            if (null === $membership || $membership->company->id() !== $actor->companyId) {
                throw Refused::because('limit', 'This person does not belong to the company.');
            }
            $amount =
                '' === trim($limit)
                    ? null
                    : AmountInput::read($limit, Currency::of($actor->baseCurrency), 'limit')->minor;
            if (null !== $amount && $amount < 0) {
                throw Refused::because('limit', 'The limit is not below zero; empty means any amount.');
            }
            $membership->approvalLimit = $amount;
            $words = null === $amount ? 'any amount' : 'up to '.Money::of($amount, $actor->baseCurrency)->decimal();
            $this->history->note(
                $actor,
                'company',
                $actor->companyId,
                'approval limit',
                $membership->user->name.': '.$words,
            );

            return \sprintf('%s may approve runs of %s.', $membership->user->name, $words);
        });
    }
}
