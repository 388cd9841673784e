<?php

declare(strict_types=1);

namespace Nelbix\App\People;

use Doctrine\DBAL\Connection;

/** What was done to a record, and by whom, for the pages that show it. */
final readonly class HistoryQuery
{
    public function __construct(private Connection $db)
    {
    }

    /** @return list<array{action: string, detail: string, name: string, happened_at: string}> */
    public function of(int $companyId, string $subject, int $id): array
    {
        /** @var list<array{action: string, detail: string, name: string, happened_at: string}> */
        return $this->db->fetchAllAssociative(
            <<<'SQL'
            SELECT h.action, h.detail, u.name, h.happened_at
            FROM history h
            JOIN app_user u ON u.id = h.user_id
            WHERE h.company_id = ? AND h.subject = ? AND h.subject_id = ?
            ORDER BY h.id
            SQL
            ,
            [$companyId, $subject, $id],
        );
    }
}
