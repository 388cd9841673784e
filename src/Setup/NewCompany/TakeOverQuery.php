<?php

declare(strict_types=1);

namespace Nelbix\App\Setup\NewCompany;

use Doctrine\DBAL\Connection;
use Nelbix\Core\Calendar\Day;

/** What the accounts hold at the end of the day of the take-over. */
final readonly class TakeOverQuery
{
    public function __construct(private Connection $db)
    {
    }

    /** @return list<array<string, mixed>> number, name, role, balance (base currency, debit positive); those that hold nothing left out */
    public function of(int $companyId, Day $day): array
    {
        return $this->db->fetchAllAssociative(
            <<<'SQL'
            SELECT a.number, a.name, a.role, SUM(l.base) AS balance
            FROM account a
            JOIN journal_line l ON l.account_id = a.id AND l.posting_date <= ?
            WHERE a.company_id = ?
            GROUP BY a.id, a.number, a.name, a.role
            HAVING balance <> 0 OR a.role = 'opening_balances'
            ORDER BY a.number
            SQL
            ,
            [$day->iso(), $companyId],
        );
    }
}
