<?php

declare(strict_types=1);

namespace Nelbix\App\Close\Revaluation;

use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Charges\RevaluedItem;
use Nelbix\Core\Ledger\JournalDraft;

/**
 * What a revaluation of a day would post, item by item.
 *
 * @phpstan-type ItemNames array{number: string, document_id: int, party: string, party_name: string, account: string, due_date: string}
 */
final readonly class ProposedRevaluation
{
    /**
     * @param list<RevaluedItem> $items
     * @param array<int, ItemNames> $names by item
     * @param array<string, array{rate: string, day: string}> $rates by currency, and the day that each is of
     * @param list<string> $missing currencies without a rate on or before the day
     */
    public function __construct(
        public Day $asOf,
        public array $items,
        public array $names,
        public array $rates,
        public array $missing,
        public JournalDraft $entry,
    ) {
    }

    /** What the page showed, in short: what is posted is what was seen. */
    public function digest(): string
    {
        return hash(
            'sha256',
            json_encode(
                [
                    $this->asOf->iso(),
                    $this->rates,
                    array_map(
                        static fn (RevaluedItem $i): array => [$i->item, $i->open, $i->openBase, $i->worth],
                        $this->items,
                    ),
                ],
                \JSON_THROW_ON_ERROR,
            ),
        );
    }

    public function gain(): int
    {
        return array_sum(array_map(static fn (RevaluedItem $i): int => $i->gain(), $this->items));
    }

    /**
     * The items by what they share.
     *
     * @param string $by item, party or account
     *
     * @return list<array{name: string, currency: string, count: int, open: int, old: int, new: int, difference: int, gain: int,
     *     document_id: ?int, party: string, side: string}>
     */
    public function rows(string $by): array
    {
        $rows = [];
        foreach ($this->items as $i) {
            $names = $this->names[$i->item];
            $name = match ($by) {
                'party' => $names['party_name'],
                'account' => $names['account'],
                default => $names['number'],
            };
            $key = ('item' === $by ? $i->item : $name).' '.$i->side->value.' '.$i->currency;
            $row = $rows[$key] ?? [
                'name' => $name,
                'currency' => $i->currency,
                'count' => 0,
                'open' => 0,
                'old' => 0,
                'new' => 0,
                'difference' => 0,
                'gain' => 0,
                'document_id' => 'item' === $by ? $names['document_id'] : null,
                'party' => $names['party_name'],
                'side' => $i->side->value,
            ];
            ++$row['count'];
            $row['open'] += $i->open;
            $row['old'] += $i->openBase;
            $row['new'] += $i->worth;
            $row['difference'] += $i->difference();
            $row['gain'] += $i->gain();
            $rows[$key] = $row;
        }

        return array_values($rows);
    }
}
