<?php

declare(strict_types=1);

namespace Nelbix\App\Goods;

use Doctrine\DBAL\Connection;

/** One delivery, for its page and for what is said of it. */
final readonly class DeliveryQuery
{
    public function __construct(private Connection $db)
    {
    }

    /**
     * @return array{number: string, rose: int, came: int, waited: int} base minor units: what of it is received and not invoiced, what
     *                                                                  invoices waited for, as it was accrued and as they say
     */
    public function recorded(int $id): array
    {
        $row = $this->db->fetchNumeric(
            <<<'SQL'
            SELECT g.number, g.open_base,
                (SELECT COALESCE(SUM(s.amount_base), 0)
                    FROM goods_slip s
                    WHERE s.delivery_id = g.id AND s.undone_on IS NULL),
                (SELECT COALESCE(SUM(v.amount_base), 0)
                    FROM goods_slip s
                    JOIN goods_arrival v ON v.slip_id = s.id
                    WHERE s.delivery_id = g.id AND v.undone_on IS NULL)
            FROM delivery g
            WHERE g.id = ?
            SQL
            ,
            [$id],
        ) ?: ['', 0, 0, 0];

        return [
            'number' => (string) $row[0],
            'rose' => (int) $row[1],
            'came' => (int) $row[2],
            'waited' => (int) $row[3],
        ];
    }

    /** @return array<string, mixed>|false id, code and name of its vendor */
    public function party(int $id): array|false
    {
        return $this->db->fetchAssociative(
            'SELECT p.id, p.code, p.name FROM delivery g JOIN party p ON p.id = g.party_id WHERE g.id = ?',
            [$id],
        );
    }

    /** @return list<array<string, mixed>> with accounts and analysis */
    public function lines(int $id): array
    {
        return $this->db->fetchAllAssociative(
            <<<'SQL'
            SELECT l.*, a.number AS account, a.name AS account_name, CONCAT_WS(' ', c.code, d.code, p.code) AS analysis,
                o.id AS order_id, o.number AS order_number, n.price AS agreed,
                COALESCE((
                    SELECT SUM(m.quantity)
                    FROM goods_move m
                    WHERE m.delivery_line_id = l.id AND m.kind IN ('invoiced', 'arrived') AND m.undone_on IS NULL
                ), 0) - COALESCE((
                    SELECT SUM(c.quantity)
                    FROM goods_claim c
                    WHERE c.delivery_line_id = l.id AND c.undone_on IS NULL
                ), 0) AS invoiced_here
            FROM delivery_line l
            LEFT JOIN purchase_order_line n ON n.id = l.order_line_id
            LEFT JOIN purchase_order o ON o.id = n.order_id
            JOIN account a ON a.id = l.account_id
            LEFT JOIN analysis_code c ON c.id = l.cost_center_id
            LEFT JOIN analysis_code d ON d.id = l.department_id
            LEFT JOIN analysis_code p ON p.id = l.project_id
            WHERE l.delivery_id = ?
            ORDER BY l.position
            SQL
            ,
            [$id],
        );
    }

    /** @return list<array<string, mixed>> what took of it: invoices, returns, clearings, with what was given back */
    public function moves(int $id): array
    {
        return $this->db->fetchAllAssociative(
            <<<'SQL'
            SELECT m.kind, m.quantity, m.amount, m.moved_on, m.undone_on, l.position, l.text, l.unit, m.document_id,
                COALESCE(d.number, s.number) AS number, s.reason, m.slip_id
            FROM delivery_line l
            JOIN goods_move m ON m.delivery_line_id = l.id
            LEFT JOIN document d ON d.id = m.document_id
            LEFT JOIN goods_slip s ON s.id = m.slip_id
            WHERE l.delivery_id = :id
            UNION ALL
            SELECT 'returned, and claimed', c.quantity, NULL, c.moved_on, c.undone_on, l.position, l.text, l.unit, NULL, s.number, s.reason,
                c.slip_id
            FROM delivery_line l
            JOIN goods_claim c ON c.delivery_line_id = l.id
            JOIN goods_slip s ON s.id = c.slip_id
            WHERE l.delivery_id = :id
            ORDER BY moved_on, number, position
            SQL
            ,
            ['id' => $id],
        );
    }
}
