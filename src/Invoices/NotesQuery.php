<?php

declare(strict_types=1);

namespace Nelbix\App\Invoices;

use Doctrine\DBAL\Connection;

/** What people wrote to a document, or to a party and its documents. */
final readonly class NotesQuery
{
    /** So many of the newest stand on a party's page. */
    private const MOST = 40;

    public function __construct(private Connection $db)
    {
    }

    /** @return list<array<string, mixed>> the oldest first */
    public function ofDocument(int $documentId): array
    {
        return $this->find('WHERE n.document_id = ?', [$documentId]);
    }

    /** @return list<array<string, mixed>> the oldest first; number is that of the document it was written to, if to one */
    public function ofParty(int $partyId): array
    {
        return $this->find(
            <<<'SQL'
            WHERE n.id IN (
                SELECT id FROM note WHERE party_id = ?
                UNION SELECT t.id FROM document f JOIN note t ON t.document_id = f.id WHERE f.party_id = ?
            )
            SQL
            ,
            [$partyId, $partyId],
        );
    }

    /**
     * @param list<int> $of
     *
     * @return list<array<string, mixed>>
     */
    private function find(string $where, array $of): array
    {
        $rows = $this->db->fetchAllAssociative(
            <<<'SQL'
            SELECT n.id, n.text, n.due_on, n.done_at, n.created_at, n.for_user_id, n.created_by_id, u.name, w.name AS for_name,
                x.name AS done_by, n.document_id, COALESCE(d.number, CONCAT('draft ', d.id)) AS number
            FROM note n
            JOIN app_user u ON u.id = n.created_by_id
            LEFT JOIN document d ON d.id = n.document_id
            LEFT JOIN app_user w ON w.id = n.for_user_id
            LEFT JOIN app_user x ON x.id = n.done_by_id

            SQL
            .
                $where.
                ' ORDER BY n.id DESC LIMIT '.
                self::MOST,
            $of,
        );

        return array_reverse($rows);
    }
}
