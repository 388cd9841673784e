<?php

declare(strict_types=1);

namespace Nelbix\Core\Settlement;

use Nelbix\Core\Ledger\JournalDraft;

/** A settlement worked out and not yet stored. The entry is empty when there is nothing to post. */
final readonly class SettlementDraft
{
    /**
     * @param list<AppliedLine> $lines
     * @param list<array{adjustment: Adjustment, base: int}> $adjustments
     * @param list<array{item: int, tax: int, base: int}> $prepaid tax on prepayments that goes back by it, minor units and base
     * @param int $exchange realised difference in ledger sign: loss +, gain −
     */
    public function __construct(
        public array $lines,
        public array $adjustments,
        public int $exchange,
        public JournalDraft $entry,
        public array $prepaid = [],
    ) {
    }
}
