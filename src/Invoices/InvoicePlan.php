<?php

declare(strict_types=1);

namespace Nelbix\App\Invoices;

use Brick\Math\BigDecimal;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Ledger\JournalDraft;
use Nelbix\Core\Tax\TaxResult;
use Nelbix\Core\Terms\ScheduledPart;

/** An invoice worked out: what posting it would write. Shown live beside the form, and written when posted. */
final readonly class InvoicePlan
{
    /**
     * @param list<ScheduledPart> $parts
     * @param int $worth what it counts against a limit, base currency, minor units: a typed rate does not lower it
     * @param BigDecimal|null $farFrom the table's rate, when the typed one is far off it
     * @param array<int, MatchedLine> $matched what its lines take of deliveries, under their keys
     * @param list<Mismatch> $mismatches why it does not fit what was ordered and received
     * @param array<int, AwaitedGoods> $awaited what its lines wait for, under their keys
     * @param Day|null $rateDay the day of the rate that was taken from the table
     */
    public function __construct(
        public TaxResult $tax,
        public int $base,
        public BigDecimal $rate,
        public int $discountBase,
        public int $graceDays,
        public int $controlId,
        public Day $documentDate,
        public Day $postingDate,
        public array $parts,
        public JournalDraft $entry,
        public int $worth,
        public ?BigDecimal $farFrom,
        public array $matched = [],
        public array $mismatches = [],
        public array $awaited = [],
        public ?Day $rateDay = null,
    ) {
    }

    /** @return array<int, OrderedGoods> under the keys of the lines */
    public function goods(): array
    {
        return $this->matched + $this->awaited;
    }
}
