<?php

declare(strict_types=1);

namespace Nelbix\App\Close;

use Doctrine\DBAL\Connection;
use Nelbix\Core\Calendar\Day;

/** The trial balance as of a day, base currency, minor units. Debits and credits are the turnovers of each account. */
final readonly class TrialBalanceQuery
{
    public function __construct(private Connection $db)
    {
    }

    /** @return list<array{id: int, account: string, name: string, debit: int, credit: int, balance: int}> accounts that moved */
    public function of(int $companyId, Day $asOf): array
    {
        return array_map(
            static fn (array $r): array => [
                'id' => (int) $r['id'],
                'account' => (string) $r['number'],
                'name' => (string) $r['name'],
                'debit' => (int) $r['debit'],
                'credit' => (int) $r['credit'],
                'balance' => (int) $r['debit'] - (int) $r['credit'],
            ],
            $this->db->fetchAllAssociative(
                <<<'SQL'
                SELECT a.id, a.number, a.name, SUM(GREATEST(l.base, 0)) AS debit, SUM(GREATEST(-l.base, 0)) AS credit
                FROM account a
                JOIN journal_line l ON l.account_id = a.id AND l.posting_date <= ?
                WHERE a.company_id = ?
                GROUP BY a.id, a.number, a.name
                ORDER BY a.number
                SQL
                ,
                [$asOf->iso(), $companyId],
            ),
        );
    }
}
