<?php

declare(strict_types=1);

namespace Nelbix\App\Invoices;

use Doctrine\DBAL\ArrayParameterType;
use Doctrine\DBAL\Connection;
use Nelbix\Core\Ledger\Side;

/** Tasks that wait: those for a person, and those the person gave to others. */
final readonly class TasksQuery
{
    public function __construct(private Connection $db)
    {
    }

    /**
     * @param list<Side> $sides that the person sees
     *
     * @return list<array<string, mixed>> by day, those without one last
     */
    public function of(int $companyId, array $sides, int $userId): array
    {
        return [] === $sides
            ? []
            : $this->db->fetchAllAssociative(
                <<<'SQL'
                SELECT n.id, n.text, n.due_on, n.for_user_id, d.id AS document_id, COALESCE(d.side, p.side) AS side,
                    p.id AS party_id, d.number, d.their_number, d.total,
                    d.currency, p.name AS party, u.name AS by_name, w.name AS for_name
                FROM note n
                LEFT JOIN document d ON d.id = n.document_id
                LEFT JOIN party p ON p.id = COALESCE(n.party_id, d.party_id)
                JOIN app_user u ON u.id = n.created_by_id
                JOIN app_user w ON w.id = n.for_user_id
                WHERE n.company_id = ? AND n.done_at IS NULL AND (n.for_user_id = ? OR n.created_by_id = ?)
                    AND COALESCE(d.side, p.side) IN (?)
                ORDER BY n.due_on IS NULL, n.due_on, n.id
                SQL
                ,
                [$companyId, $userId, $userId, array_map(static fn (Side $s): string => $s->value, $sides)],
                [3 => ArrayParameterType::STRING],
            );
    }
}
