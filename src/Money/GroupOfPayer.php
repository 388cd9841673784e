<?php

declare(strict_types=1);

namespace Nelbix\App\Money;

use Doctrine\DBAL\Connection;
use Nelbix\App\Parties\Party;

/** Other customers of a payer's group that owe something: one of a group may pay for all. */
final readonly class GroupOfPayer
{
    public function __construct(private Connection $db)
    {
    }

    /**
     * @param list<string> $without codes that stand on the board already
     *
     * @return list<string> codes
     */
    public function of(int $companyId, Party $payer, string $currency, array $without): array
    {
        $codes = $this->db->fetchFirstColumn(
            <<<'SQL'
            SELECT p.code
            FROM party p
            WHERE p.company_id = ? AND p.side = 'receivables' AND p.party_group = ? AND p.id <> ? AND p.retired = 0
                AND EXISTS (SELECT 1 FROM open_item i WHERE i.party_id = p.id AND i.side = 'receivables' AND i.currency = ? AND i.open > 0)
            ORDER BY p.code
            LIMIT 20
            SQL
            ,
            [$companyId, $payer->partyGroup, $payer->id(), $currency],
        );

        return array_values(array_diff(array_map(strval(...), $codes), $without));
    }
}
