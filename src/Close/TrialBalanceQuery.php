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

    /**
     * What each account held before a day, what moved it through another, and what it holds then. Debit positive.
     *
     * @param bool $beforeClosing without the entries that close years within the span
     *
     * @return list<array{id: int, account: string, name: string, type: string, opening: int, debit: int, credit: int, closing: int}>
     */
    public function span(int $companyId, Day $from, Day $to, bool $beforeClosing): array
    {
        $without = $beforeClosing
            ? 'AND NOT (l.posting_date >= :from AND EXISTS (SELECT 1 FROM journal_entry e WHERE e.id = l.entry_id '.
                "AND e.source_kind = 'year_end'))"
            : '';
        $rows = [];
        foreach (
            $this->db->iterateAssociative(
                <<<SQL
                SELECT a.id, a.number, a.name, a.type, SUM(IF(l.posting_date < :from, l.base, 0)) AS opening,
                    SUM(IF(l.posting_date >= :from, GREATEST(l.base, 0), 0)) AS debit,
                    SUM(IF(l.posting_date >= :from, GREATEST(-l.base, 0), 0)) AS credit
                FROM account a
                JOIN journal_line l ON l.account_id = a.id AND l.posting_date <= :to
                WHERE a.company_id = :company $without
                GROUP BY a.id, a.number, a.name, a.type
                ORDER BY a.number
                SQL
                ,
                ['company' => $companyId, 'from' => $from->iso(), 'to' => $to->iso()],
            ) as $r
        ) {
            [$opening, $debit, $credit] = [(int) $r['opening'], (int) $r['debit'], (int) $r['credit']];
            if (0 !== $opening || 0 !== $debit || 0 !== $credit) {
                $rows[] = [
                    'id' => (int) $r['id'],
                    'account' => (string) $r['number'],
                    'name' => (string) $r['name'],
                    'type' => (string) $r['type'],
                    'opening' => $opening,
                    'debit' => $debit,
                    'credit' => $credit,
                    'closing' => $opening + $debit - $credit,
                ];
            }
        }

        return $rows;
    }
}
