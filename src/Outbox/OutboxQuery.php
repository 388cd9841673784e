<?php

declare(strict_types=1);

namespace Nelbix\App\Outbox;

use Doctrine\DBAL\Connection;
use Nelbix\Core\Ledger\Side;

/** What was sent: the messages that wait in the outbox. */
final readonly class OutboxQuery
{
    /** So many stand in the list; a file has them all. */
    public const LISTED = 300;

    public function __construct(private Connection $db)
    {
    }

    /** @return list<array<string, mixed>> the newest first */
    public function list(int $companyId, Side $side, ?int $most = self::LISTED): array
    {
        return $this->db->fetchAllAssociative(
            <<<'SQL'
            SELECT o.id, o.recipient, o.subject, o.created_at, LENGTH(o.message) AS size, o.document_id, d.number, u.name
            FROM outbox o
            JOIN app_user u ON u.id = o.created_by_id
            LEFT JOIN document d ON d.id = o.document_id
            WHERE o.company_id = ? AND COALESCE(d.side, 'receivables') = ?
            ORDER BY o.id DESC

            SQL
            .(null === $most ? '' : 'LIMIT '.$most),
            [$companyId, $side->value],
        );
    }

    /** The message as it was sent; null when there is none of this company and side. */
    public function message(int $companyId, Side $side, int $id): ?string
    {
        $message = $this->db->fetchOne(
            <<<'SQL'
            SELECT o.message
            FROM outbox o
            LEFT JOIN document d ON d.id = o.document_id
            WHERE o.id = ? AND o.company_id = ? AND COALESCE(d.side, 'receivables') = ?
            SQL
            ,
            [$id, $companyId, $side->value],
        );

        return false === $message ? null : (string) $message;
    }
}
