<?php

declare(strict_types=1);

namespace Nelbix\App\Close\TieOut;

use Doctrine\DBAL\Connection;
use Nelbix\App\Books\OpenAsOf;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Ledger\AccountRole;

/** A control account against its items currency by currency: what the entries moved in their own currency, and what is open in it. */
final readonly class TieOutCurrencies
{
    public function __construct(private Connection $db)
    {
    }

    /**
     * @return array<string, array{ledger: int, items: int}> minor units of each currency, in the account's normal sign, by currency; empty
     *                                                       when everything is in one
     */
    public function of(int $companyId, int $accountId, AccountRole $role, Day $asOf): array
    {
        if (null === $role->side()) {
            return [];
        }
        $day = OpenAsOf::replayed();
        [$open, $join, $where] = [$day->open(), $day->join(), $day->where()];
        $rows = [];
        foreach (
            $this->db->iterateNumeric(
                <<<SQL
                SELECT currency, SUM(ledger), SUM(items)
                FROM (
                    SELECT e.currency, l.amount AS ledger, 0 AS items
                    FROM journal_line l
                    JOIN journal_entry e ON e.id = l.entry_id
                    WHERE l.account_id = :account AND l.posting_date <= :day
                    UNION ALL
                    SELECT i.currency, 0, IF(i.side = 'receivables', 1, -1) * $open
                    FROM open_item i
                    $join
                    WHERE i.company_id = :company AND i.account_id = :account AND $where
                ) m
                GROUP BY currency
                ORDER BY currency
                SQL
                ,
                ['company' => $companyId, 'account' => $accountId, 'day' => $asOf->iso()],
            ) as [$currency, $ledger, $items]
        ) {
            $rows[(string) $currency] = [
                'ledger' => $role->normalSign() * (int) $ledger,
                'items' => $role->normalSign() * (int) $items,
            ];
        }

        return \count($rows) > 1 ? $rows : [];
    }
}
