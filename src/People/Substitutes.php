<?php

declare(strict_types=1);

namespace Nelbix\App\People;

use Doctrine\DBAL\Connection;
use Nelbix\App\Platform\BooksDay;

/** Who stands in for whom, from one day through another of the company's books. */
final readonly class Substitutes
{
    public function __construct(private Connection $db, private BooksDay $booksDay)
    {
    }

    /** @return array<int, list<Role>> by company: the roles of those whom somebody stands in for today */
    public function rolesOf(int $deputyId): array
    {
        $roles = [];
        foreach ($this->today($deputyId) as $row) {
            $roles[(int) $row['company_id']][] = Role::from($row['role']);
        }

        return $roles;
    }

    /** @return list<int|null> the limits of those whom somebody stands in for today, minor units; null for any amount */
    public function limitsOf(int $deputyId, int $companyId): array
    {
        $here = array_filter(
            $this->today($deputyId),
            static fn (array $r): bool => (int) $r['company_id'] === $companyId,
        );

        return array_map(
            static fn (array $r): ?int => null === $r['approval_limit'] ? null : (int) $r['approval_limit'],
            array_values($here),
        );
    }

    /**
     * What holds or will hold in a company.
     *
     * @return list<array<string, mixed>> id, absent, deputy, their ids, first_day, last_day, reason
     */
    public function ofCompany(int $companyId): array
    {
        return $this->db->fetchAllAssociative(
            <<<'SQL'
            SELECT s.id, s.absent_id, s.deputy_id, a.name AS absent, d.name AS deputy, s.first_day, s.last_day, s.reason
            FROM substitute s
            JOIN app_user a ON a.id = s.absent_id
            JOIN app_user d ON d.id = s.deputy_id
            WHERE s.company_id = ? AND s.ended = 0 AND s.last_day >= ?
            ORDER BY s.first_day, s.id
            SQL
            ,
            [$companyId, $this->booksDay->of($companyId)->iso()],
        );
    }

    /** @return list<array<string, mixed>> company_id, role and approval_limit of those whom somebody stands in for today */
    private function today(int $deputyId): array
    {
        $rows = $this->db->fetchAllAssociative(
            <<<'SQL'
            SELECT s.company_id, s.first_day, s.last_day, m.role, m.approval_limit
            FROM substitute s
            JOIN app_user a ON a.id = s.absent_id AND a.retired = 0
            JOIN membership m ON m.user_id = s.absent_id AND m.company_id = s.company_id
            WHERE s.deputy_id = ? AND s.ended = 0
            SQL
            ,
            [$deputyId],
        );

        return array_values(
            array_filter($rows, function (array $r): bool {
                $today = $this->booksDay->of((int) $r['company_id'])->iso();

                return $r['first_day'] <= $today && $today <= $r['last_day'];
            }),
        );
    }
}
