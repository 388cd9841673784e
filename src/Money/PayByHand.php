<?php

declare(strict_types=1);

namespace Nelbix\App\Money;

use Nelbix\App\Bank\HandChecks;
use Nelbix\App\Parties\PartyDetails;
use Nelbix\App\Platform\Actor;
use Nelbix\App\Platform\FormKey;
use Nelbix\App\Platform\Transaction;
use Nelbix\Core\Refused;

/** Posts money of the board; a check written by hand or printed here takes its number in the register of its book. */
final readonly class PayByHand
{
    public function __construct(
        private Transaction $transaction,
        private PostMoney $postMoney,
        private HandChecks $handChecks,
        private PartyDetails $details,
    ) {
    }

    /**
     * @param string $checkNumber as it stands on the check; of one that is printed empty for the next of its book
     *
     * @return int the document's id
     *
     * @throws Refused
     */
    public function post(Actor $actor, MoneyInput $input, string $checkNumber, ?FormKey $form): int
    {
        return $this->transaction->once($actor, 'money', $form, function () use ($actor, $input, $checkNumber): int {
            $number = trim($checkNumber);
            $payee = null;
            if ('print' === $input->method) {
                $number = '' === $number ? (string) $this->handChecks->next($input->bankAccountId) : $number;
                $payee = implode("\n", $this->details->payee($input->partyId));
                $input = $input->byCheck($number);
            }
            $id = $this->postMoney->post($actor, $input);
            if (\in_array($input->method, ['hand', 'print'], true)) {
                $this->handChecks->issue(
                    $input->bankAccountId,
                    $number,
                    $input->partyId,
                    $id,
                    $input->amount,
                    $input->date,
                    $payee,
                );
            }

            return $id;
        });
    }
}
