<?php

declare(strict_types=1);

namespace Nelbix\App\Close\Revaluation;

use Doctrine\DBAL\Connection;

/** The revaluations that were posted. */
final readonly class RevaluationsQuery
{
    public function __construct(private Connection $db)
    {
    }

    /** @return list<array<string, mixed>> the newest first, with the numbers of their entries */
    public function of(int $companyId): array
    {
        return $this->db->fetchAllAssociative(
            <<<'SQL'
            SELECT r.id, r.as_of, r.gain, r.digest, r.live, r.undone_why, r.undone_at, r.created_at, u.name AS `by`, x.name AS undone_by,
                e.number AS entry, b.number AS back, (SELECT COUNT(*) FROM revaluation_item i WHERE i.revaluation_id = r.id) AS items
            FROM revaluation r
            JOIN app_user u ON u.id = r.created_by_id
            JOIN journal_entry e ON e.id = r.entry_id
            JOIN journal_entry b ON b.id = r.back_id
            LEFT JOIN app_user x ON x.id = r.undone_by_id
            WHERE r.company_id = ?
            ORDER BY r.as_of DESC, r.id DESC
            LIMIT 60
            SQL
            ,
            [$companyId],
        );
    }
}
