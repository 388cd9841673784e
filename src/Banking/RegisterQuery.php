<?php

declare(strict_types=1);

namespace Nelbix\App\Banking;

use Doctrine\DBAL\Connection;
use Nelbix\App\Bank\CheckState;

/** A check book and what became of its numbers. */
final readonly class RegisterQuery
{
    /** So many stand on the page; a file has them all. */
    public const PAGE = 500;

    public function __construct(private Connection $db)
    {
    }

    /** @return array<string, mixed>|null the book with its bank account; null when it is of another company */
    public function book(int $companyId, int $book): ?array
    {
        return $this->db->fetchAssociative(
            <<<'SQL'
            SELECT c.*, b.name AS bank, b.code AS bank_code, b.account_number, b.currency
            FROM check_book c
            JOIN bank_account b ON b.id = c.bank_account_id
            WHERE c.id = ? AND b.company_id = ?
            SQL
            ,
            [$book, $companyId],
        ) ?:
            null;
    }

    /** @return list<array<string, mixed>> the highest number first */
    public function checks(int $book, ?CheckState $state, ?int $limit): array
    {
        return $this->db->fetchAllAssociative(
            <<<'SQL'
            SELECT k.number, k.state, k.amount, k.check_date, k.reason, k.document_id, k.proposal_id, p.name AS payee,
                d.number AS payment, r.number AS run
            FROM bank_check k
            LEFT JOIN party p ON p.id = k.party_id
            LEFT JOIN document d ON d.id = k.document_id
            LEFT JOIN proposal r ON r.id = k.proposal_id
            WHERE k.check_book_id = :book AND (:state IS NULL OR k.state = :state)
            ORDER BY k.number DESC

            SQL
            .(null === $limit ? '' : 'LIMIT '.$limit),
            ['book' => $book, 'state' => $state?->value],
        );
    }

    /** @return list<array<string, mixed>> what was issued and what the bank must not pay any more, the lowest number first */
    public function issued(int $book): array
    {
        return $this->db->fetchAllAssociative(
            <<<'SQL'
            SELECT k.number, k.state, k.amount, k.check_date, p.name AS payee
            FROM bank_check k
            LEFT JOIN party p ON p.id = k.party_id
            WHERE k.check_book_id = ? AND k.state IN ('issued', 'cleared', 'voided', 'stopped')
            ORDER BY k.number
            SQL
            ,
            [$book],
        );
    }

    /** How many the page does not show. */
    public function more(int $book, ?CheckState $state): int
    {
        return max(
            0,
            (int) $this->db->fetchOne(
                'SELECT COUNT(*) FROM bank_check WHERE check_book_id = :book AND (:state IS NULL OR state = :state)',
                ['book' => $book, 'state' => $state?->value],
            ) - self::PAGE,
        );
    }
}
