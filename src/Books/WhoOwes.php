<?php

declare(strict_types=1);

namespace Nelbix\App\Books;

use Doctrine\DBAL\Connection;
use Nelbix\Core\Ledger\Side;

/** Finds a party by what is open with it, where its name is not known: from the text of a payment, or from its amount. */
final readonly class WhoOwes
{
    public function __construct(private Connection $db)
    {
    }

    /**
     * Those who have an open document whose number begins so; or the one that has an open item of just this amount, when there is only
     * one.
     *
     * @return list<array{code: string, name: string}>
     */
    public function find(int $companyId, Side $side, string $q): array
    {
        if (1 !== preg_match('/\d{3}/', $q)) {
            return [];
        }
        $found = $this->db->fetchAllAssociative(
            <<<'SQL'
            SELECT DISTINCT p.code, CONCAT(p.name, ', ', i.number) AS name
            FROM open_item i
            JOIN party p ON p.id = i.party_id
            WHERE i.company_id = ? AND i.side = ? AND i.is_open = 1 AND i.number LIKE ? AND p.retired = 0
            ORDER BY i.number
            LIMIT 12
            SQL
            ,
            [$companyId, $side->value, addcslashes($q, '%_\\').'%'],
        );
        $minor = preg_replace('/[ ,.’\']/', '', $q) ?? '';
        if ([] !== $found || 1 !== preg_match('/\A\d{3,15}\z/', $minor)) {
            /** @var list<array{code: string, name: string}> */
            return $found;
        }
        // typed with two decimals, or without any
        $amount = 1 === preg_match('/[.,]\d{2}\z/', $q) ? (int) $minor : 100 * (int) $minor;

        /** @var list<array{code: string, name: string}> */
        $owing = $this->db->fetchAllAssociative(
            <<<'SQL'
            SELECT p.code, CONCAT(p.name, ', ', MIN(i.number)) AS name
            FROM open_item i
            JOIN party p ON p.id = i.party_id
            WHERE i.company_id = ? AND i.side = ? AND i.open = ? AND p.retired = 0
            GROUP BY p.id, p.code, p.name
            LIMIT 2
            SQL
            ,
            [$companyId, $side->value, $amount],
        );

        return 1 === \count($owing) ? $owing : [];
    }
}
