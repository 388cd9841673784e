<?php

declare(strict_types=1);

namespace Nelbix\App\Parties;

use Doctrine\DBAL\Connection;
use Nelbix\Core\Ledger\Side;

/**
 * What a picker offers for what was typed: code, start of any word of the name, tax number or address; recent ones first; nothing
 * retired.
 */
final readonly class Pickers
{
    public function __construct(private Connection $db)
    {
    }

    /**
     * @param string $what party, account, tax_code, terms, cost_center, department or project
     *
     * @return list<array{code: string, name: string}>
     */
    public function find(int $companyId, Side $side, string $what, string $q): array
    {
        $q = mb_substr(trim($q), 0, 40);
        $like = addcslashes($q, '%_\\').'%';
        $words = '% '.$like;
        $c = $companyId;

        /** @var list<array{code: string, name: string}> */
        return match ($what) {
            'party' => $this->db->fetchAllAssociative(
                <<<'SQL'
                SELECT code, name
                FROM party
                WHERE company_id = ? AND side = ? AND retired = 0
                    AND (code LIKE ? OR name LIKE ? OR name LIKE ? OR tax_number LIKE ? OR street LIKE ? OR city LIKE ?)
                ORDER BY last_used_at IS NULL, last_used_at DESC, name
                LIMIT 12
                SQL
                ,
                [$c, $side->value, $like, $like, $words, $like, $like, $like],
            ),
            'account' => $this->db->fetchAllAssociative(
                <<<SQL
                SELECT number AS code, name
                FROM account
                WHERE company_id = ? AND retired = 0 AND (role IS NULL
                    OR role NOT IN ('payables', 'receivables', 'vendor_prepayments', 'customer_prepayments', 'refunds_payable',
                    'received_not_invoiced')) AND (number LIKE ? OR name LIKE ? OR name LIKE ?)
                ORDER BY number
                LIMIT 12
                SQL
                ,
                [$c, $like, $like, $words],
            ),
            'tax_code' => $this->db->fetchAllAssociative(
                <<<'SQL'
                SELECT code, text AS name
                FROM tax_code
                WHERE company_id = ? AND retired = 0 AND used_by = ? AND (code LIKE ? OR text LIKE ?)
                ORDER BY code
                LIMIT 12
                SQL
                ,
                [$c, Side::Payables === $side ? 'purchase' : 'sale', $like, '%'.$like],
            ),
            'terms' => $this->db->fetchAllAssociative(
                <<<'SQL'
                SELECT code, text AS name
                FROM payment_term
                WHERE company_id = ? AND retired = 0 AND used_by IN ('both', ?) AND (code LIKE ? OR text LIKE ?)
                ORDER BY code
                LIMIT 12
                SQL
                ,
                [$c, Side::Payables === $side ? 'vendors' : 'customers', $like, '%'.$like],
            ),
            default => $this->db->fetchAllAssociative(
                <<<'SQL'
                SELECT code, name
                FROM analysis_code
                WHERE company_id = ? AND kind = ? AND retired = 0 AND (code LIKE ? OR name LIKE ? OR name LIKE ?)
                ORDER BY code
                LIMIT 12
                SQL
                ,
                [$c, $what, $like, $like, $words],
            ),
        };
    }
}
