<?php

declare(strict_types=1);

namespace Nelbix\App\Close\Year;

use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Ledger\JournalDraft;

/** What the close of a year would post. */
final readonly class ProposedYearEnd
{
    /** @param array<int, int> $balances of income and expense accounts, debit positive, by account id */
    public function __construct(
        public int $year,
        public Day $first,
        public Day $last,
        public array $balances,
        public JournalDraft $entry,
    ) {
    }

    /** What the year earned, base minor units; a loss is below zero. */
    public function result(): int
    {
        return -array_sum($this->balances);
    }

    public function digest(): string
    {
        return hash('sha256', json_encode([$this->year, $this->balances], \JSON_THROW_ON_ERROR));
    }
}
