<?php

declare(strict_types=1);

namespace Nelbix\App\Ledger;

use Doctrine\DBAL\Connection;
use Nelbix\App\Platform\FiscalYears;
use Nelbix\Core\Calendar\Day;
use Symfony\Contracts\Service\ResetInterface;

/** The year of the period that a day lies in: a year of weeks begins on another day than its first month. Read once a request. */
final class YearsOfPeriods implements FiscalYears, ResetInterface
{
    /** @var array<int, list<array{int, string, string}>> year, first and last day by company */
    private array $years = [];

    public function __construct(private readonly Connection $db)
    {
    }

    public function of(int $companyId, Day $day): ?int
    {
        $iso = $day->iso();
        for ($again = 0; $again < 2; ++$again) {
            $this->years[$companyId] ??= array_map(
                static fn (array $r): array => [(int) $r[0], (string) $r[1], (string) $r[2]],
                $this->db->fetchAllNumeric(
                    'SELECT year, MIN(first_day), MAX(last_day) FROM period WHERE company_id = ? GROUP BY year',
                    [$companyId],
                ),
            );
            foreach ($this->years[$companyId] as [$year, $first, $last]) {
                if ($first <= $iso && $iso <= $last) {
                    return $year;
                }
            }
            // a year may have been added since
            unset($this->years[$companyId]);
        }

        return null;
    }

    public function reset(): void
    {
        $this->years = [];
    }
}
