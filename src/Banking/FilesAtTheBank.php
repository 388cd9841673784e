<?php

declare(strict_types=1);

namespace Nelbix\App\Banking;

use Doctrine\DBAL\Connection;
use Nelbix\App\Books\MoneyThatLeft;

/** Payments in files that went to the bank, and that it did not reject. */
final readonly class FilesAtTheBank implements MoneyThatLeft
{
    public function __construct(private Connection $db)
    {
    }

    public function with(int $documentId): ?string
    {
        $number = $this->db->fetchOne(
            <<<'SQL'
            SELECT f.number
            FROM bank_file_line l
            JOIN bank_file f ON f.id = l.bank_file_id AND f.sent_at IS NOT NULL
            WHERE l.document_id = ? AND l.state IN ('made', 'accepted')
            LIMIT 1
            SQL
            ,
            [$documentId],
        );

        return false === $number ? null : (string) $number;
    }
}
