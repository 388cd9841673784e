<?php

declare(strict_types=1);

namespace Nelbix\App\Goods;

use Brick\Math\BigDecimal;
use Nelbix\App\Ledger\Chart;
use Nelbix\App\Platform\Actor;
use Nelbix\App\Platform\FormKey;
use Nelbix\App\Platform\Settings;
use Nelbix\App\Platform\Transaction;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Ledger\AccountRole;
use Nelbix\Core\Refused;

/** Clears what was received and will never be invoiced, to where price variances go. */
final readonly class ClearReceived
{
    public function __construct(
        private Transaction $transaction,
        private SlipBook $slips,
        private Chart $chart,
        private Settings $settings,
    ) {
    }

    /**
     * @param array<int, BigDecimal|null> $lines of deliveries, with what the person saw left of each; null for all that is left
     *
     * @return int the slip's id
     *
     * @throws Refused
     */
    public function clear(Actor $actor, array $lines, Day $day, string $reason, ?FormKey $form = null): int
    {
        $toLine = 'line' === $this->settings->of($actor->companyId)->values['price_variance'];
        $against = fn (AccruedLine $l): int => $toLine
            ? $l->account
            : $this->chart->role($actor->companyId, AccountRole::PriceVariance);

        return $this->transaction->once(
            $actor,
            'goods cleared',
            $form,
            fn (): int => $this->slips->write($actor, MoveKind::Cleared, $lines, $day, $reason, $against)->id(),
        );
    }
}
