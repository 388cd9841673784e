<?php

declare(strict_types=1);

namespace Nelbix\App\Money;

use Nelbix\App\Bank\HandChecks;
use Nelbix\App\Platform\Actor;
use Nelbix\App\Platform\FormKey;
use Nelbix\App\Platform\Transaction;
use Nelbix\Core\Refused;

/** Posts money of the board; a check written by hand takes its number in the register of its book. */
final readonly class PayByHand
{
    public function __construct(
        private Transaction $transaction,
        private PostMoney $postMoney,
        private HandChecks $handChecks,
    ) {
    }

    /**
     * @return int the document's id
     *
     * @throws Refused
     */
    public function post(Actor $actor, MoneyInput $input, string $checkNumber, ?FormKey $form): int
    {
        return $this->transaction->once($actor, 'money', $form, function () use ($actor, $input, $checkNumber): int {
            $id = $this->postMoney->post($actor, $input);
            if ('hand' === $input->method) {
                $this->handChecks->issue(
                    $input->bankAccountId,
                    trim($checkNumber),
                    $input->partyId,
                    $id,
                    $input->amount,
                    $input->date,
                );
            }

            return $id;
        });
    }
}
