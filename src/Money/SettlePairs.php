<?php

declare(strict_types=1);

namespace Nelbix\App\Money;

use Nelbix\App\Books\AdjustmentRequest;
use Nelbix\App\Books\MayPay;
use Nelbix\App\Books\PlacementRequest;
use Nelbix\App\Books\SettlementBook;
use Nelbix\App\Books\SettlementRequest;
use Nelbix\App\Platform\Actor;
use Nelbix\App\Platform\BooksDay;
use Nelbix\App\Platform\FormKey;
use Nelbix\App\Platform\History;
use Nelbix\App\Platform\Picked;
use Nelbix\App\Platform\Transaction;
use Nelbix\Core\Ledger\Side;
use Nelbix\Core\Refused;
use Nelbix\Core\Settlement\AdjustmentKind;

/**
 * Settles the pairs that a person picked from the list, all or none, on the books' day: just those that the page showed, worked out anew.
 *
 * @phpstan-import-type Pair from PairsQuery
 */
final readonly class SettlePairs
{
    public function __construct(
        private Transaction $transaction,
        private PairsQuery $pairs,
        private SettlementBook $book,
        private MayPay $mayPay,
        private BooksDay $booksDay,
        private History $history,
        private Picked $picked,
    ) {
    }

    /**
     * @param list<string> $keys of the pairs that the page showed
     *
     * @return int how many were settled; 0 when the page was sent before
     *
     * @throws Refused when one of them is no longer what the page showed
     */
    public function settle(Actor $actor, Side $side, array $keys, ?FormKey $form): int
    {
        $count = 0;
        $this->transaction->once($actor, 'pairs', $form, function () use ($actor, $side, $keys, &$count): int {
            $picked = $this->picked->rows(
                $actor,
                'pairs',
                $keys,
                fn (): array => $this->pairs->of($actor->companyId, $side, $this->booksDay->of($actor->companyId)),
                'Nothing is picked; pick what is to be settled.',
                'What is picked changed since this page was loaded; look at the list as it stands now.',
            );
            $requests = array_map(fn (array $pair): SettlementRequest => $this->request($actor, $side, $pair), $picked);
            $this->mayPay->mayBeSettled(
                array_merge(
                    ...array_map(
                        static fn (SettlementRequest $r): array => array_column($r->placements, 'item'),
                        $requests,
                    ),
                ),
            );
            $settled = $this->book->settleAll($actor, $requests);
            $this->history->noteAll(
                $actor,
                'settlement',
                array_fill_keys($settled, 'from the list of pairs'),
                'settled',
            );
            $count = \count($settled);

            return $settled[0];
        });

        return $count;
    }

    /** @param Pair $pair */
    private function request(Actor $actor, Side $side, array $pair): SettlementRequest
    {
        $placements = [new PlacementRequest($pair['credit'], -$pair['amount'])];
        $adjustments = [];
        foreach ($pair['items'] as $item) {
            $placements[] = new PlacementRequest($item['id'], $item['gross']);
            if ($item['discount'] > 0) {
                $adjustments[] = new AdjustmentRequest($item['id'], AdjustmentKind::Discount, -$item['discount']);
            }
        }

        return new SettlementRequest(
            $side,
            $placements,
            $adjustments,
            $this->booksDay->of($actor->companyId),
            text: 'Settlement without money',
        );
    }
}
