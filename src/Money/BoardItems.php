<?php

declare(strict_types=1);

namespace Nelbix\App\Money;

use Nelbix\App\Books\DiscountSteps;
use Nelbix\App\Books\OpenItemsQuery;
use Nelbix\App\Books\StoredItem;
use Nelbix\App\Parties\Party;
use Nelbix\App\Platform\Desk;
use Nelbix\Core\Ledger\Side;
use Nelbix\Core\OpenItems\OpenItem;

/**
 * Loads what a party has open for the board. One currency at a time is placed; the others are named.
 *
 * @phpstan-import-type ItemRow from OpenItemsQuery
 */
final readonly class BoardItems
{
    public function __construct(private OpenItemsQuery $items, private DiscountSteps $discountSteps)
    {
    }

    /**
     * @param non-empty-list<Party|null> $parties the board's own first, which may not be known yet; the others' items stand there too
     * @param string $asked the currency that was chosen; empty for the party's own, or else the one that something is open in
     */
    public function of(Desk $desk, Side $side, BoardMode $mode, array $parties, string $asked): BoardRows
    {
        $own = $parties[0]->currency ?? $desk->company->baseCurrency;
        // money of a payer who is not known is in the currency of its account
        $own = true === $parties[0]?->nobody && '' !== $asked ? $asked : $own;
        $all = [];
        foreach ($parties as $party) {
            array_push(
                $all,
                ...null === $party ? [] : $this->items->ofParty($desk->id(), $side, $party->id(), $desk->today),
            );
        }
        $currencies = [];
        foreach ($all as $row) {
            $of = $currencies[$row['currency']] ?? ['count' => 0, 'open' => 0];
            $currencies[$row['currency']] = [
                'count' => $of['count'] + 1,
                'open' => $of['open'] + $mode->sign() * $row['open'],
            ];
        }
        $currency = match (true) {
            isset($currencies[$asked]), $asked === $own => $asked,
            isset($currencies[$own]), [] === $currencies => $own,
            default => (string) array_key_first($currencies),
        };
        $currencies += [$own => ['count' => 0, 'open' => 0]];
        ksort($currencies);
        $rows = $elsewhere = [];
        foreach ($all as $row) {
            if ($row['currency'] !== $currency) {
                $elsewhere[] = $row['id'];
                continue;
            }
            foreach (['open', 'original', 'open_base', 'original_base'] as $key) {
                $row[$key] = $mode->sign() * $row[$key];
            }
            $rows[$row['id']] = $row;
        }

        return new BoardRows($currency, $rows, $this->core($desk, $side, $rows), $currencies, $elsewhere);
    }

    /**
     * @param array<int, ItemRow> $rows by id
     *
     * @return array<int, OpenItem>
     */
    private function core(Desk $desk, Side $side, array $rows): array
    {
        $discounts = $this->discountSteps->open($desk->id(), $side, array_keys($rows));

        return array_map(
            static fn (array $row): OpenItem => StoredItem::of($row, $side, $discounts[$row['id']] ?? null),
            $rows,
        );
    }
}
