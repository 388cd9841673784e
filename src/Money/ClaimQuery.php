<?php

declare(strict_types=1);

namespace Nelbix\App\Money;

use Doctrine\DBAL\Connection;
use Nelbix\Core\Calendar\Day;

/** Claims that are open, and what was written off, as scalar rows. */
final readonly class ClaimQuery
{
    private const OPEN = <<<'SQL'
    FROM claim c
    JOIN open_item i ON i.id = c.item_id AND i.open <> 0
    JOIN open_item o ON o.id = c.of_item_id
    JOIN document d ON d.id = c.document_id AND d.state = 'posted'
    JOIN party p ON p.id = i.party_id
    JOIN app_user a ON a.id = c.asked_by_id
    LEFT JOIN app_user u ON u.id = c.person_id
    WHERE c.company_id = :company
    SQL;

    public function __construct(private Connection $db)
    {
    }

    /**
     * @param string $person username of who looks after them; '' for all
     *
     * @return list<array<string, mixed>> those that wait for a decision first, then by the day they are looked at again
     */
    public function open(int $companyId, string $person = ''): array
    {
        $open = self::OPEN;
        $own = '' === $person ? '' : 'AND u.username = :person';

        return $this->db->fetchAllAssociative(
            <<<SQL
            SELECT c.id, c.version, c.document_id, c.item_id, d.number, o.number AS of_number, o.document_id AS of_document, p.code,
                p.name, p.id AS party_id, c.kind, c.text, c.state, c.write_off_as, i.open, i.open_base, i.currency, i.due_date,
                d.posting_date, c.follow_up_on, u.name AS person, a.name AS asked_by, c.asked_by_id
            $open $own
            ORDER BY c.state <> 'awaiting', c.follow_up_on IS NULL, c.follow_up_on, c.id
            LIMIT 500
            SQL
            ,
            ['company' => $companyId] + ('' === $person ? [] : ['person' => $person]),
        );
    }

    /** @return array<string, mixed>|null the claim that a document made, for its page */
    public function ofDocument(int $documentId): ?array
    {
        return $this->db->fetchAssociative(
            <<<'SQL'
            SELECT c.id, c.version, c.kind, c.text, c.state, c.write_off_as, c.follow_up_on, u.name AS person, a.name AS asked_by,
                c.asked_by_id, z.name AS decided_by, c.decided_why
            FROM claim c
            JOIN app_user a ON a.id = c.asked_by_id
            LEFT JOIN app_user u ON u.id = c.person_id
            LEFT JOIN app_user z ON z.id = c.decided_by_id
            WHERE c.document_id = ?
            SQL
            ,
            [$documentId],
        ) ?:
            null;
    }

    /** @return list<array<string, mixed>> what was let go between two days and not undone, the newest first */
    public function writtenOff(int $companyId, Day $from, Day $through): array
    {
        return $this->db->fetchAllAssociative(
            <<<'SQL'
            SELECT s.settled_on, p.code, p.name, p.id AS party_id, i.number, i.document_id, j.kind, j.reason, j.amount, j.amount_base,
                i.currency, a.number AS account, a.name AS account_name, u.name AS person, q.name AS asked_by
            FROM settlement s
            JOIN settlement_adjustment j ON j.settlement_id = s.id
                AND j.kind IN ('bad_debt', 'bank_charge', 'late_discount', 'account', 'write_off')
            JOIN open_item i ON i.id = j.item_id
            JOIN party p ON p.id = i.party_id
            JOIN account a ON a.id = j.account_id
            JOIN app_user u ON u.id = s.created_by_id
            LEFT JOIN claim c ON c.item_id = i.id AND c.write_off_as IS NOT NULL
            LEFT JOIN app_user q ON q.id = c.asked_by_id
            WHERE s.company_id = ? AND s.side = 'receivables' AND s.undone_on IS NULL AND s.settled_on BETWEEN ? AND ?
            ORDER BY s.settled_on DESC, s.id DESC, j.id
            LIMIT 1000
            SQL
            ,
            [$companyId, $from->iso(), $through->iso()],
        );
    }
}
