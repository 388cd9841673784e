<?php

declare(strict_types=1);

namespace Nelbix\App\Close\Outlook;

use Nelbix\Core\Aging\CashWeek;

/** An outlook as it is shown. Amounts are minor units of the base currency. */
final readonly class SeenOutlook
{
    /**
     * @param non-empty-list<CashWeek> $weeks
     * @param non-empty-list<CashWeek> $plain the same without anything moved
     * @param list<array{id: int, number: string, name: string, balance: int}> $banks
     * @param int $opening what the banks hold in all
     * @param list<PlannedRun> $runs
     * @param int $beyond what is expected after the last week
     * @param list<string> $unknown names of what comes and nobody knows what it is worth; it is left out
     */
    public function __construct(
        public array $weeks,
        public array $plain,
        public array $banks,
        public int $opening,
        public array $runs,
        public int $beyond,
        public array $unknown,
    ) {
    }
}
