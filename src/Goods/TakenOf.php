<?php

declare(strict_types=1);

namespace Nelbix\App\Goods;

use Brick\Math\BigDecimal;
use Doctrine\DBAL\Connection;
use Nelbix\Core\Matching\Accrued;

/** What a document took of deliveries and has not given back. */
final readonly class TakenOf
{
    public function __construct(private Connection $db)
    {
    }

    /** @return array<int, Accrued> by delivery line */
    public function document(int $companyId, int $documentId): array
    {
        $taken = [];
        foreach (
            $this->db->fetchAllAssociative(
                <<<'SQL'
                SELECT m.delivery_line_id, SUM(m.quantity) AS quantity, SUM(m.amount) AS amount, SUM(m.amount_base) AS base
                FROM goods_move m
                JOIN document d ON d.id = m.document_id
                WHERE d.company_id = ? AND m.document_id = ? AND m.undone_on IS NULL
                GROUP BY m.delivery_line_id
                SQL
                ,
                [$companyId, $documentId],
            ) as $r
        ) {
            $taken[(int) $r['delivery_line_id']] = new Accrued(
                BigDecimal::of((string) $r['quantity']),
                (int) $r['amount'],
                (int) $r['base'],
            );
        }

        return $taken;
    }
}
