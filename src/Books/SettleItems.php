<?php

declare(strict_types=1);

namespace Nelbix\App\Books;

use Nelbix\App\Platform\Actor;
use Nelbix\App\Platform\FormKey;
use Nelbix\App\Platform\History;
use Nelbix\App\Platform\Transaction;
use Nelbix\Core\Refused;

/** Settles items of one party against each other without money: a credit or prepayment against invoices. */
final readonly class SettleItems
{
    public function __construct(
        private Transaction $transaction,
        private SettlementBook $book,
        private History $history,
        private MayPay $mayPay,
    ) {
    }

    /**
     * @return int the settlement's id
     *
     * @throws Refused when it does not add up to zero, an item is reserved or was settled meanwhile
     */
    public function settle(Actor $actor, SettlementRequest $request, ?FormKey $form = null): int
    {
        return $this->transaction->once($actor, 'settlement', $form, function () use ($actor, $request): int {
            if ([] === $request->placements) {
                throw Refused::because('items', 'Nothing is placed; place a credit on what is owed.');
            }
            $this->mayPay->mayBeSettled(array_column($request->placements, 'item'));
            $id = $this->book->settle($actor, $request);
            $this->history->note($actor, 'settlement', $id, 'settled', $request->text);

            return $id;
        });
    }
}
