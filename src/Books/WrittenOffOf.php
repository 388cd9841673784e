<?php

declare(strict_types=1);

namespace Nelbix\App\Books;

use Doctrine\DBAL\Connection;

/** What of a customer's items was written off as bad debt and is not recovered yet: what money that comes after all may be for. */
final readonly class WrittenOffOf
{
    public function __construct(private Connection $db)
    {
    }

    /** @return int positive minor units of the currency */
    public function of(int $partyId, string $currency): int
    {
        return max(
            0,
            (int) $this->db->fetchOne(
                <<<'SQL'
                SELECT -COALESCE(SUM(IF(j.kind = 'bad_debt', j.amount, 0)), 0)
                    - COALESCE(SUM(IF(a.role = 'bad_debts_recovered', ABS(j.amount), 0)), 0)
                FROM settlement s
                JOIN settlement_adjustment j ON j.settlement_id = s.id AND j.kind IN ('bad_debt', 'account')
                LEFT JOIN account a ON a.id = j.account_id
                WHERE s.party_id = ? AND s.side = 'receivables' AND s.currency = ? AND s.undone_on IS NULL
                SQL
                ,
                [$partyId, $currency],
            ),
        );
    }
}
