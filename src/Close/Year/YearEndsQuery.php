<?php

declare(strict_types=1);

namespace Nelbix\App\Close\Year;

use Doctrine\DBAL\Connection;

/** The closes of years that were posted. */
final readonly class YearEndsQuery
{
    public function __construct(private Connection $db)
    {
    }

    /** @return list<array<string, mixed>> the newest first */
    public function of(int $companyId): array
    {
        return $this->db->fetchAllAssociative(
            <<<'SQL'
            SELECT y.id, y.year, y.result, e.number, u.name AS `by`, y.created_at, y.undone_at, y.undone_why, x.name AS undone_by
            FROM year_end y
            JOIN app_user u ON u.id = y.created_by_id
            JOIN journal_entry e ON e.id = y.entry_id
            LEFT JOIN app_user x ON x.id = y.undone_by_id
            WHERE y.company_id = ?
            ORDER BY y.year DESC, y.id DESC
            LIMIT 60
            SQL
            ,
            [$companyId],
        );
    }
}
