<?php

declare(strict_types=1);

namespace Nelbix\App\Banking;

use Doctrine\DBAL\Connection;
use Nelbix\App\Books\MoneyThatLeft;

/** Payments in files that wait for the bank, or went there and were not rejected. */
final readonly class FilesAtTheBank implements MoneyThatLeft
{
    public function __construct(private Connection $db)
    {
    }

    public function fileOf(int $documentId): ?array
    {
        $file = $this->db->fetchAssociative(
            <<<'SQL'
            SELECT f.id, f.number, l.state, f.sent_at IS NOT NULL AS sent
            FROM bank_file_line l
            JOIN bank_file f ON f.id = l.bank_file_id
            WHERE l.document_id = ?
            SQL
            ,
            [$documentId],
        );

        return false === $file
            ? null
            : [
                'id' => (int) $file['id'],
                'number' => (string) $file['number'],
                'state' => (string) $file['state'],
                'sent' => (bool) $file['sent'],
            ];
    }

    public function with(int $documentId): ?array
    {
        // as it is now, whatever this transaction has read before
        $file = $this->db->fetchAssociative(
            <<<'SQL'
            SELECT f.number, f.sent_at IS NOT NULL AS sent
            FROM bank_file_line l
            JOIN bank_file f ON f.id = l.bank_file_id
            WHERE l.document_id = ? AND l.state IN ('made', 'accepted')
            LIMIT 1
            LOCK IN SHARE MODE
            SQL
            ,
            [$documentId],
        );

        return false === $file ? null : ['number' => (string) $file['number'], 'sent' => (bool) $file['sent']];
    }
}
