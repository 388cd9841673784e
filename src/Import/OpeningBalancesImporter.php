<?php

declare(strict_types=1);

namespace Nelbix\App\Import;

use Nelbix\App\Ledger\Chart;
use Nelbix\App\Ledger\PeriodGate;
use Nelbix\App\Ledger\TakeBalances;
use Nelbix\App\Platform\Actor;

/** What the accounts held elsewhere at the end of the day of the take-over. */
final readonly class OpeningBalancesImporter implements PlanningImporter
{
    public const KIND = 'opening-balances';

    public function __construct(
        private OpeningDay $day,
        private Chart $chart,
        private TakeBalances $takeBalances,
        private PeriodGate $periods,
    ) {
    }

    public function kinds(): array
    {
        return [self::KIND];
    }

    public function required(string $kind): array
    {
        return ['account', 'debit', 'credit'];
    }

    public function optional(string $kind): array
    {
        return ['name'];
    }

    public function key(string $kind): array
    {
        return [];
    }

    public function together(string $kind): array
    {
        return ['account'];
    }

    public function begin(Actor $actor, string $kind): PlannedFile
    {
        $day = $this->day->of($actor->companyId);
        $this->periods->mustBeOpen($actor->companyId, $day, [], 'account');

        return new OpeningBalancesFile($actor, $day, $this->chart, $this->takeBalances);
    }

    public function take(Actor $actor, string $kind, array $rows, bool $approved): array
    {
        $file = $this->begin($actor, $kind);
        $file->plan($rows);

        return $file->write();
    }
}
