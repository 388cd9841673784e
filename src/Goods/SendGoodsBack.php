<?php

declare(strict_types=1);

namespace Nelbix\App\Goods;

use Brick\Math\BigDecimal;
use Nelbix\App\Platform\Actor;
use Nelbix\App\Platform\FormKey;
use Nelbix\App\Platform\Transaction;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Refused;

/** Goods that are not invoiced yet go back to their vendor: out of stock or expense again, and to come again on their order. */
final readonly class SendGoodsBack
{
    public function __construct(private Transaction $transaction, private SlipBook $slips)
    {
    }

    /**
     * @param array<int, BigDecimal|null> $quantities by delivery line
     *
     * @return int the slip's id
     *
     * @throws Refused
     */
    public function send(Actor $actor, array $quantities, Day $day, string $reason, ?FormKey $form = null): int
    {
        return $this->transaction->once(
            $actor,
            'goods back',
            $form,
            fn (): int => $this->slips
                ->write(
                    $actor,
                    MoveKind::Returned,
                    $quantities,
                    $day,
                    $reason,
                    static fn (AccruedLine $l): int => $l->account,
                )
                ->id(),
        );
    }
}
