<?php

declare(strict_types=1);

namespace Nelbix\App\People;

use Doctrine\DBAL\Connection;

/** Who works on a company's books, for lists and fields that name a person. */
final readonly class Colleagues
{
    public function __construct(private Connection $db)
    {
    }

    /** @return array<string, string> names by username, in the order of the names */
    public function of(int $companyId): array
    {
        /** @var array<string, string> */
        return $this->db->fetchAllKeyValue(
            <<<'SQL'
            SELECT DISTINCT u.username, u.name
            FROM app_user u
            JOIN membership m ON m.user_id = u.id
            WHERE m.company_id = ?
            ORDER BY u.name
            SQL
            ,
            [$companyId],
        );
    }

    /** The id of one who works on a company's books; null for anybody else. */
    public function id(int $companyId, string $username): ?int
    {
        $id = $this->db->fetchOne(
            <<<'SQL'
            SELECT u.id
            FROM app_user u
            JOIN membership m ON m.user_id = u.id
            WHERE m.company_id = ? AND u.username = ? AND u.retired = 0
            LIMIT 1
            SQL
            ,
            [$companyId, $username],
        );

        return false === $id ? null : (int) $id;
    }

    /** Whether these are the data of the demo. */
    public function areOfTheDemo(): bool
    {
        return (bool) $this->db->fetchOne("SELECT 1 FROM company WHERE code = 'BOAT' AND name = 'Tamarack Boatworks'");
    }
}
