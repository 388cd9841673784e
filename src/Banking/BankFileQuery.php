<?php

declare(strict_types=1);

namespace Nelbix\App\Banking;

use Doctrine\DBAL\Connection;

/** Files for the bank and what became of their payments. */
final readonly class BankFileQuery
{
    /** So many stand in the list; a file has them all. */
    public const LISTED = 300;

    public function __construct(private Connection $db)
    {
    }

    /** @return list<array<string, mixed>> the newest first */
    public function list(int $companyId, ?int $most = self::LISTED): array
    {
        return $this->db->fetchAllAssociative(
            <<<'SQL'
            SELECT f.id, f.number, f.format, f.pay_date, f.payments, f.amount, f.created_at, f.sent_at,
                f.withdrawn_at, b.name AS bank, b.currency,
                r.number AS run, u.name AS made_by, (SELECT COUNT(*) FROM bank_file_line l WHERE l.bank_file_id = f.id
                AND l.state = 'accepted') AS accepted, (SELECT COUNT(*) FROM bank_file_line l WHERE l.bank_file_id = f.id
                AND l.state = 'rejected') AS rejected
            FROM bank_file f
            JOIN bank_account b ON b.id = f.bank_account_id
            JOIN app_user u ON u.id = f.created_by_id
            LEFT JOIN proposal r ON r.id = f.proposal_id
            WHERE f.company_id = ? AND f.format <> 'pain.008'
            ORDER BY f.id DESC

            SQL
            .(null === $most ? '' : 'LIMIT '.$most),
            [$companyId],
        );
    }

    /** @return list<array<string, mixed>> the payments in a file and their answers */
    public function lines(int $id): array
    {
        return $this->db->fetchAllAssociative(
            <<<'SQL'
            SELECT l.*, d.number, d.state AS document_state, p.name
            FROM bank_file_line l
            JOIN document d ON d.id = l.document_id
            JOIN party p ON p.id = d.party_id
            WHERE l.bank_file_id = ?
            ORDER BY l.id
            SQL
            ,
            [$id],
        );
    }
}
