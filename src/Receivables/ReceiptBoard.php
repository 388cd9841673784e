<?php

declare(strict_types=1);

namespace Nelbix\App\Receivables;

use Nelbix\App\Parties\Party;
use Nelbix\App\Settlement\MoneyInput;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\OpenItems\OpenItem;
use Nelbix\Core\Problem;

/**
 * The receipt board as it stands: the customer's items and what is placed on each. Amounts in minor units, positive.
 *
 * @phpstan-import-type ItemRow from \Nelbix\App\Documents\OpenItemsQuery
 */
final readonly class ReceiptBoard
{
    /**
     * @param list<ItemRow>        $rows
     * @param array<int, OpenItem> $items
     * @param array<int, int>      $placed   gross, by item
     * @param array<int, int>      $discount taken, by item
     * @param array<int, int>      $small    small difference, by item
     * @param array<int, int>      $offer    discount that holds on the day, by item
     * @param list<Problem>        $problems
     */
    public function __construct(
        public ?MoneyInput $input,
        public ?Party $party,
        public string $currency,
        public Day $date,
        public int $amount,
        public array $rows,
        public array $items,
        public array $placed,
        public array $discount,
        public array $small,
        public array $offer,
        public array $problems,
    ) {
    }

    /** Money and credits that are used or could be: the left side of the beam. */
    public function money(): int
    {
        $credits = 0;
        foreach ($this->rows as $row) {
            $credits += $row['open'] < 0 ? ($this->placed[$row['id']] ?? 0) : 0;
        }

        return $this->amount + $credits;
    }

    /** What money and credits are placed on, less discounts and small differences: the right side of the beam. */
    public function owed(): int
    {
        $owed = 0;
        foreach ($this->rows as $row) {
            $id = $row['id'];
            $owed += $row['open'] > 0 ? ($this->placed[$id] ?? 0) - ($this->discount[$id] ?? 0) - ($this->small[$id] ?? 0) : 0;
        }

        return $owed;
    }

    public function left(): int
    {
        return $this->money() - $this->owed();
    }
}
