<?php

declare(strict_types=1);

namespace Nelbix\App\People;

use Doctrine\DBAL\Connection;

/** The people of a company, for the controller's list. */
final readonly class PeopleQuery
{
    public function __construct(private Connection $db)
    {
    }

    /**
     * @return list<array{id: int, username: string, name: string, email: string, roles: list<Role>, limit: ?int, reason: string,
     *     second_factor: bool, state: string, last_at: ?string}>
     */
    public function of(int $companyId): array
    {
        $rows = $this->db->fetchAllAssociative(
            <<<'SQL'
            SELECT u.id, u.username, u.name, u.email, u.retired, u.second_factor IS NOT NULL AS second_factor,
                u.password_hash = '' AS waits, GROUP_CONCAT(m.role ORDER BY m.role) AS roles, MIN(m.approval_limit) AS approval_limit,
                MAX(m.duties_reason) AS reason, MAX(seen.last_at) AS last_at
            FROM membership m
            JOIN app_user u ON u.id = m.user_id
            LEFT JOIN (SELECT user_id, MAX(seen_at) AS last_at FROM presence WHERE confirmed = 1 GROUP BY user_id) seen
                ON seen.user_id = u.id
            WHERE m.company_id = ? AND u.username <> 'console'
            GROUP BY u.id, u.username, u.name, u.email, u.retired, u.second_factor, u.password_hash
            ORDER BY u.retired, u.name
            SQL
            ,
            [$companyId],
        );

        return array_map(
            static fn (array $r): array => [
                'id' => (int) $r['id'],
                'username' => (string) $r['username'],
                'name' => (string) $r['name'],
                'email' => (string) $r['email'],
                'roles' => array_map(Role::from(...), explode(',', (string) $r['roles'])),
                'limit' => null === $r['approval_limit'] ? null : (int) $r['approval_limit'],
                'reason' => (string) $r['reason'],
                'second_factor' => (bool) $r['second_factor'],
                'state' => match (true) {
                    (bool) $r['retired'] => 'retired',
                    (bool) $r['waits'] => 'no password yet',
                    default => '',
                },
                'last_at' => null === $r['last_at'] ? null : (string) $r['last_at'],
            ],
            $rows,
        );
    }
}
