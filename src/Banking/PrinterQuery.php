<?php

declare(strict_types=1);

namespace Nelbix\App\Banking;

use Doctrine\DBAL\Connection;

/** The stand-in printer: its last jobs, and where it will jam. */
final readonly class PrinterQuery
{
    public function __construct(private Connection $db)
    {
    }

    /** @return list<array<string, mixed>> the last eight, the newest first */
    public function jobs(int $companyId): array
    {
        return $this->db->fetchAllAssociative(
            <<<'SQL'
            SELECT j.*, u.name AS by_name
            FROM print_job j
            JOIN app_user u ON u.id = j.created_by_id
            WHERE j.company_id = ?
            ORDER BY j.id DESC
            LIMIT 8
            SQL
            ,
            [$companyId],
        );
    }

    /** The page at which the next job will jam; null when it prints on. */
    public function jamsAt(int $companyId): ?int
    {
        return ((int) $this->db->fetchOne('SELECT printer_jams_at FROM company WHERE id = ?', [$companyId])) ?: null;
    }
}
