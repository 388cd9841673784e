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

    /** @return array{number: string, base: int} as it was recorded, base currency */
    public function recorded(int $id): array
    {
        $row = $this->db->fetchAssociative('SELECT number, amount_base FROM delivery WHERE id = ?', [$id]) ?: [];

        return ['number' => (string) ($row['number'] ?? ''), 'base' => (int) ($row['amount_base'] ?? 0)];
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
            SELECT l.*, a.number AS account, a.name AS account_name, CONCAT_WS(' ', c.code, d.code, p.code) AS analysis
            FROM delivery_line l
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
}
