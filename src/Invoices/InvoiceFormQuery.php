<?php

declare(strict_types=1);

namespace Nelbix\App\Invoices;

use Doctrine\DBAL\Connection;
use Nelbix\Core\Ledger\DocumentKind;
use Nelbix\Core\Ledger\Side;

/** What the form of an invoice shows of the books, and what is said once it is posted. */
final readonly class InvoiceFormQuery
{
    public function __construct(private Connection $db)
    {
    }

    /** @return array<string, mixed>|false the first discount of a document: its last day and what it is worth on all parts */
    public function firstDiscount(int $documentId): array|false
    {
        return $this->db->fetchAssociative(
            <<<'SQL'
            SELECT x.through, SUM(x.amount) AS amount
            FROM item_discount x
            JOIN open_item i ON i.id = x.item_id
            WHERE i.document_id = ?
            GROUP BY x.through
            ORDER BY x.through
            LIMIT 1
            SQL
            ,
            [$documentId],
        );
    }

    /** @return array{id: int, number: string}|null the receipt that was posted with an invoice */
    public function cameWith(int $documentId): ?array
    {
        $receipt = $this->db->fetchAssociative(
            <<<'SQL'
            SELECT r.id, r.number
            FROM open_item i
            JOIN settlement_line l ON l.item_id = i.id
            JOIN settlement s ON s.id = l.settlement_id AND s.undone_on IS NULL
            JOIN document r ON r.id = s.document_id AND r.kind = 'receipt'
            WHERE i.document_id = ?
            LIMIT 1
            SQL
            ,
            [$documentId],
        );

        return false === $receipt ? null : ['id' => (int) $receipt['id'], 'number' => (string) $receipt['number']];
    }

    /** @return list<int> the documents that reverse it */
    public function reversalsOf(int $documentId): array
    {
        return array_map(
            'intval',
            $this->db->fetchFirstColumn('SELECT id FROM document WHERE reverses_id = ?', [$documentId]),
        );
    }

    /** The entry of a posted document that was not reversed; null when it has none. */
    public function entryOf(int $documentId): ?int
    {
        $entry = $this->db->fetchOne(
            "SELECT id FROM journal_entry WHERE source_kind = 'document' AND source_id = ? AND reverses_id IS NULL",
            [$documentId],
        );

        return false === $entry ? null : (int) $entry;
    }

    /** What a party has open in all, minor units of the base currency. */
    public function openOf(int $companyId, Side $side, int $partyId): int
    {
        return (int) $this->db->fetchOne(
            'SELECT COALESCE(SUM(open_base), 0) FROM open_item WHERE company_id = ? AND side = ? AND party_id = ? AND open <> 0',
            [$companyId, $side->value, $partyId],
        );
    }

    /** @return array<string, string> codes that a new line of this party begins with */
    public function defaults(int $partyId): array
    {
        $row = $this->db->fetchAssociative(
            <<<'SQL'
            SELECT t.code AS tax_code, c.code AS cost_center, d.code AS department, j.code AS project
            FROM party p
            LEFT JOIN tax_code t ON t.id = p.default_tax_code_id AND t.retired = 0
            LEFT JOIN analysis_code c ON c.id = p.cost_center_id AND c.retired = 0
            LEFT JOIN analysis_code d ON d.id = p.department_id AND d.retired = 0
            LEFT JOIN analysis_code j ON j.id = p.project_id AND j.retired = 0
            WHERE p.id = ?
            SQL
            ,
            [$partyId],
        );

        return array_map(static fn (mixed $v): string => (string) $v, array_filter($row ?: []));
    }

    /** @return array<string, mixed>|null the party's last document of a kind, with the accounts it used */
    public function last(int $companyId, Side $side, int $partyId, DocumentKind $kind): ?array
    {
        return $this->db->fetchAssociative(
            <<<'SQL'
            SELECT d.id, d.number, d.document_date, d.total, d.currency,
                GROUP_CONCAT(DISTINCT a.number ORDER BY a.number SEPARATOR ', ') AS accounts
            FROM document d
            JOIN document_line l ON l.document_id = d.id
            JOIN account a ON a.id = l.account_id
            WHERE d.id = (SELECT MAX(m.id) FROM document m WHERE m.company_id = ? AND m.party_id = ? AND m.side = ?
                AND m.kind = ? AND m.state = 'posted')
            GROUP BY d.id, d.number, d.document_date, d.total, d.currency
            SQL
            ,
            [$companyId, $partyId, $side->value, $kind->value],
        ) ?:
            null;
    }
}
