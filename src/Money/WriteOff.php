<?php

declare(strict_types=1);

namespace Nelbix\App\Money;

use Nelbix\App\Books\AdjustmentRequest;
use Nelbix\App\Books\GivenUp;
use Nelbix\App\Books\ItemLocks;
use Nelbix\App\Books\PlacementRequest;
use Nelbix\App\Books\SettlementBook;
use Nelbix\App\Books\SettlementRequest;
use Nelbix\App\Ledger\Rates;
use Nelbix\App\Platform\Actor;
use Nelbix\App\Platform\FormKey;
use Nelbix\App\Platform\History;
use Nelbix\App\Platform\Transaction;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Ledger\InvoiceEntry;
use Nelbix\Core\Ledger\Side;
use Nelbix\Core\Money\Money;
use Nelbix\Core\OpenItems\OpenItem;
use Nelbix\Core\ProblemKind;
use Nelbix\Core\Refused;
use Nelbix\Core\Settlement\AdjustmentKind;

/**
 * Lets items of one customer go, or parts of them, without money: as a bad debt, or to an account that is named. What is above the limit
 * of one person waits as claims until somebody else decides. Source: rules.md, Journal entries, Bad debt.
 */
final readonly class WriteOff
{
    public function __construct(
        private Transaction $transaction,
        private ItemLocks $items,
        private SettlementBook $book,
        private GivenUp $givenUp,
        private Rates $rates,
        private MakeClaim $makeClaim,
        private History $history,
    ) {
    }

    /**
     * @param array<int, int> $amounts positive minor units of the items' currency, by item; the items are of one party and currency
     * @param int|null $account where it goes, when another than the bad debts' own is named
     *
     * @return array{settlement: ?int, claims: list<int>} one or the other: what was written off, or the documents that wait
     *
     * @throws Refused
     */
    public function write(
        Actor $actor,
        array $amounts,
        AdjustmentKind $as,
        ?int $account,
        Day $date,
        string $reason,
        ?FormKey $form = null,
    ): array {
        if ([] === $amounts) {
            throw Refused::because(
                'items',
                'Nothing is chosen; name an amount on at least one item.',
                ProblemKind::Missing,
            );
        }
        if ('' === trim($reason)) {
            throw Refused::because('reason', 'Say why it is written off; the report and the history keep your words.');
        }
        $made = ['settlement' => null, 'claims' => []];
        $this->transaction->once($actor, 'write off', $form, function () use (
            $actor,
            $amounts,
            $as,
            $account,
            $date,
            $reason,
            &$made,
        ): int {
            $made = ['settlement' => null, 'claims' => []];
            $items = array_map(
                static fn ($held): OpenItem => $held->item,
                $this->items->held($actor, array_keys($amounts)),
            );
            $worth = $this->worth($actor, $items, $amounts, $date);
            if ($worth + $this->givenUp->before(array_keys($amounts)) > $this->givenUp->limit($actor)) {
                foreach ($amounts as $item => $amount) {
                    $made['claims'][] = $this->makeClaim->make(
                        $actor,
                        new ClaimRequest(
                            $item,
                            $amount,
                            ClaimKind::WriteOff,
                            $reason,
                            writeOffAs: $as,
                            account: $account,
                        ),
                        $date,
                    );
                }

                return $made['claims'][0];
            }

            return $made['settlement'] = $this->settle($actor, $items, $amounts, $as, $account, $date, $reason);
        });

        return $made;
    }

    /**
     * @param array<int, OpenItem> $items
     * @param array<int, int> $amounts
     */
    public function request(
        array $items,
        array $amounts,
        AdjustmentKind $as,
        ?int $account,
        Day $date,
        string $reason,
        ?int $askedBy = null,
    ): SettlementRequest {
        $placements = $adjustments = [];
        foreach ($amounts as $id => $amount) {
            $sign = ($items[$id] ?? null)?->open <=> 0;
            $placements[] = new PlacementRequest($id, $sign * $amount);
            $adjustments[] = new AdjustmentRequest($id, $as, -$sign * $amount, $account, $reason);
        }

        return new SettlementRequest(
            Side::Receivables,
            $placements,
            $adjustments,
            $date,
            text: mb_substr(
                \sprintf(
                    '%s of %s: %s',
                    $as->word(),
                    implode(
                        ', ',
                        array_map(static fn (OpenItem $i): string => $i->number, array_intersect_key($items, $amounts)),
                    ),
                    trim($reason),
                ),
                0,
                255,
            ),
            askedBy: $askedBy,
        );
    }

    /**
     * @param array<int, OpenItem> $items
     * @param array<int, int> $amounts
     */
    private function settle(
        Actor $actor,
        array $items,
        array $amounts,
        AdjustmentKind $as,
        ?int $account,
        Day $date,
        string $reason,
    ): int {
        $id = $this->book->settle($actor, $this->request($items, $amounts, $as, $account, $date, $reason));
        $this->history->note($actor, 'settlement', $id, 'written off', $as->word().': '.trim($reason));

        return $id;
    }

    /**
     * What it comes to in base currency, at the table's rate of the day.
     *
     * @param array<int, OpenItem> $items
     * @param array<int, int> $amounts
     */
    public function worth(Actor $actor, array $items, array $amounts, Day $date): int
    {
        $worth = 0;
        foreach ($amounts as $id => $amount) {
            $item = $items[$id];
            if (Side::Receivables !== $item->side || $item->open <= 0 || $amount <= 0 || $amount > $item->open) {
                throw Refused::because(
                    'amount.'.$id,
                    \sprintf(
                        '%s %s of %s is open; write off that or less, and more than nothing.',
                        Money::of(max(0, $item->open), $item->currency)->decimal(),
                        $item->currency,
                        $item->number,
                    ),
                );
            }
            $rate = $this->rates->on($actor->companyId, $item->currency, $actor->baseCurrency, $date);
            $worth += InvoiceEntry::base($amount, $item->currency, $actor->baseCurrency, $rate);
        }

        return $worth;
    }
}
