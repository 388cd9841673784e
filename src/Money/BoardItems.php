<?php

declare(strict_types=1);

namespace Nelbix\App\Money;

use Nelbix\App\Books\DiscountSteps;
use Nelbix\App\Books\OpenItemsQuery;
use Nelbix\App\Parties\Party;
use Nelbix\App\Platform\Desk;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Ledger\DocumentKind;
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

    /** @param string $asked the currency that was chosen; empty for the party's own, or else the one that something is open in */
    public function of(Desk $desk, Side $side, BoardMode $mode, ?Party $party, string $asked): BoardRows
    {
        $own = $party->currency ?? $desk->company->baseCurrency;
        $all = null === $party ? [] : $this->items->ofParty($desk->id(), $side, $party->id(), $desk->today);
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
            static fn (array $row): OpenItem => new OpenItem(
                $row['id'],
                $side,
                $row['party_id'],
                DocumentKind::from($row['kind']),
                $row['number'],
                $row['account_id'],
                $row['currency'],
                $row['original'],
                $row['original_base'],
                $row['open'],
                $row['open_base'],
                Day::of($row['posting_date']),
                Day::of($row['due_date']),
                $discounts[$row['id']] ?? null,
            ),
            $rows,
        );
    }
}
