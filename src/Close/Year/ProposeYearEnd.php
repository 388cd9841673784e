<?php

declare(strict_types=1);

namespace Nelbix\App\Close\Year;

use Doctrine\DBAL\Connection;
use Nelbix\App\Ledger\Chart;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Ledger\AccountRole;
use Nelbix\Core\Ledger\YearEndEntry;
use Nelbix\Core\ProblemKind;
use Nelbix\Core\Refused;

/** Looks at what income and expense accounts hold at the end of a year. What an earlier close took is not there any more. */
final readonly class ProposeYearEnd
{
    public function __construct(private Connection $db, private Chart $chart)
    {
    }

    /** @throws Refused when the year has no periods, or the chart no account of retained earnings */
    public function of(int $companyId, string $base, int $year): ProposedYearEnd
    {
        [$first, $last] = $this->days($companyId, $year);
        $balances = array_map(
            'intval',
            $this->db->fetchAllKeyValue(
                <<<'SQL'
                SELECT l.account_id, SUM(l.base)
                FROM account a
                JOIN journal_line l ON l.account_id = a.id AND l.posting_date <= ?
                WHERE a.company_id = ? AND a.type IN ('income', 'expense')
                GROUP BY l.account_id
                HAVING SUM(l.base) <> 0
                ORDER BY MIN(a.number)
                SQL
                ,
                [$last->iso(), $companyId],
            ),
        );

        return new ProposedYearEnd(
            $year,
            $first,
            $last,
            $balances,
            YearEndEntry::of($base, $balances, $this->chart->role($companyId, AccountRole::RetainedEarnings)),
        );
    }

    /**
     * @return array{Day, Day}
     *
     * @throws Refused
     */
    public function days(int $companyId, int $year): array
    {
        $row = $this->db->fetchNumeric(
            'SELECT MIN(first_day), MAX(last_day) FROM period WHERE company_id = ? AND year = ?',
            [$companyId, $year],
        );
        if (false === $row || null === $row[0]) {
            throw Refused::because('year', \sprintf('The books have no periods of %d.', $year), ProblemKind::Unknown);
        }

        return [Day::of((string) $row[0]), Day::of((string) $row[1])];
    }
}
