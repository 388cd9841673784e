<?php

declare(strict_types=1);

namespace Nelbix\App\Invoices;

use Doctrine\DBAL\Connection;
use Nelbix\Core\Ledger\Side;

/** Batches and what is in them. */
final readonly class BatchQuery
{
    /** So many stand in the list; a file has them all. */
    public const LISTED = 200;

    public function __construct(private Connection $db)
    {
    }

    /** @return list<array<string, mixed>> the open ones first, the newest first */
    public function list(int $companyId, Side $side, ?int $most = self::LISTED): array
    {
        return $this->db->fetchAllAssociative(
            <<<'SQL'
            SELECT b.id, b.name, b.posting_date, b.control_count, b.control_total, b.posted_at, u.name AS by_name, COUNT(d.id) AS n,
                COALESCE(SUM(d.total), 0) AS total
            FROM batch b
            JOIN app_user u ON u.id = b.created_by_id
            LEFT JOIN document d ON d.batch_id = b.id AND d.reverses_id IS NULL
            WHERE b.company_id = ? AND b.side = ?
            GROUP BY b.id, b.name, b.posting_date, b.control_count, b.control_total, b.posted_at, u.name
            ORDER BY b.posted_at IS NOT NULL, b.id DESC

            SQL
            .(null === $most ? '' : 'LIMIT '.$most),
            [$companyId, $side->value],
        );
    }

    /** @return list<array<string, mixed>> the documents of a batch, drafts and posted */
    public function documents(int $companyId, int $id): array
    {
        return $this->db->fetchAllAssociative(
            <<<'SQL'
            SELECT d.id, d.state, d.number, d.their_number, d.kind, d.version, d.draft_input, d.document_date, d.due_date,
                d.total, d.currency, p.code, p.name
            FROM document d
            LEFT JOIN party p ON p.id = d.party_id
            WHERE d.company_id = ? AND d.batch_id = ? AND d.reverses_id IS NULL
            ORDER BY d.id
            SQL
            ,
            [$companyId, $id],
        );
    }

    /** @return array{count: int, total: int} of its documents, minor units */
    public function sum(int $id): array
    {
        $sum = $this->db->fetchNumeric(
            'SELECT COUNT(*), COALESCE(SUM(total), 0) FROM document WHERE batch_id = ? AND reverses_id IS NULL',
            [$id],
        ) ?: [0, 0];

        return ['count' => (int) $sum[0], 'total' => (int) $sum[1]];
    }

    /** The posting date of an open batch; null when there is no such. */
    public function postingDate(int $companyId, Side $side, int $id): ?string
    {
        $day = $this->db->fetchOne(
            'SELECT posting_date FROM batch WHERE id = ? AND company_id = ? AND side = ? AND posted_at IS NULL',
            [$id, $companyId, $side->value],
        );

        return false === $day ? null : (string) $day;
    }
}
