<?php

declare(strict_types=1);

namespace Nelbix\App\Goods;

use Brick\Math\BigDecimal;
use Doctrine\DBAL\Connection;
use Nelbix\Core\Matching\Accrued;

/** What a document took of deliveries, or waits for, and has not given back. */
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

    /** @return array<int, BigDecimal> what the document counts as invoiced, by order line */
    public function orderLines(int $companyId, int $documentId): array
    {
        return array_map(
            static fn (mixed $sum): BigDecimal => BigDecimal::of((string) $sum),
            $this->db->fetchAllKeyValue(
                <<<'SQL'
                SELECT order_line_id, SUM(quantity)
                FROM (
                    SELECT l.order_line_id, m.quantity
                    FROM goods_move m
                    JOIN delivery_line l ON l.id = m.delivery_line_id AND l.order_line_id IS NOT NULL
                    WHERE m.document_id = :document AND m.kind = 'invoiced' AND m.undone_on IS NULL
                    UNION ALL
                    SELECT w.order_line_id, w.quantity
                    FROM goods_awaited w
                    WHERE w.document_id = :document AND w.undone_on IS NULL
                    UNION ALL
                    SELECT w.order_line_id, -v.quantity
                    FROM goods_awaited w
                    JOIN goods_arrival v ON v.awaited_id = w.id AND v.delivery_line_id IS NULL AND v.undone_on IS NULL
                    WHERE w.document_id = :document AND w.undone_on IS NULL
                ) x
                WHERE EXISTS (SELECT 1 FROM document d WHERE d.id = :document AND d.company_id = :company)
                GROUP BY order_line_id
                SQL
                ,
                ['document' => $documentId, 'company' => $companyId],
            ),
        );
    }
}
