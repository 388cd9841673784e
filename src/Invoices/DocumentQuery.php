<?php

declare(strict_types=1);

namespace Nelbix\App\Invoices;

use Brick\Math\BigDecimal;
use Doctrine\DBAL\Connection;
use Nelbix\App\Books\Document;
use Nelbix\App\Ledger\Rates;
use Nelbix\Core\Ledger\Side;

/** What the page of one document shows of it. */
final readonly class DocumentQuery
{
    public function __construct(private Connection $db, private Rates $rates)
    {
    }

    /** The table's rate, when the one a vendor invoice was entered at is far off it. */
    public function farFrom(Document $document, string $base): ?string
    {
        if (Side::Payables !== $document->side || $document->currency === $base || null === $document->postingDate) {
            return null;
        }
        $table = $this->rates->find($document->companyId, $document->currency, $base, $document->postingDate);

        return null !== $table && Rates::isFarOff(BigDecimal::of($document->rate), $table)
            ? (string) $table->stripTrailingZeros()
            : null;
    }

    public function exists(int $companyId, Side $side, int $id): bool
    {
        return false !==
            $this->db->fetchOne('SELECT 1 FROM document WHERE id = ? AND company_id = ? AND side = ?', [
                $id,
                $companyId,
                $side->value,
            ]);
    }

    public function number(int $id): string
    {
        return (string) $this->db->fetchOne('SELECT number FROM document WHERE id = ?', [$id]);
    }

    /** @return array<string, mixed>|false id, code and name */
    public function party(Document $document): array|false
    {
        return $this->db->fetchAssociative('SELECT id, code, name FROM party WHERE id = ?', [$document->partyId]);
    }

    /** @return list<array<string, mixed>> with their accounts and who holds them */
    public function items(int $id): array
    {
        return $this->db->fetchAllAssociative(
            <<<'SQL'
            SELECT i.*, a.number AS account, i.reserved_as AS reserved_by, i.reserved_by_id AS reserved_id
            FROM open_item i
            JOIN account a ON a.id = i.account_id
            WHERE i.document_id = ?
            ORDER BY i.part
            SQL
            ,
            [$id],
        );
    }

    /** @return list<array<string, mixed>> with accounts, tax codes and analysis */
    public function lines(int $id): array
    {
        return $this->db->fetchAllAssociative(
            <<<'SQL'
            SELECT l.*, a.number, a.name, t.code AS tax_code, CONCAT_WS(' ', c.code, d.code, p.code) AS analysis
            FROM document_line l
            JOIN account a ON a.id = l.account_id
            LEFT JOIN tax_code t ON t.id = l.tax_code_id
            LEFT JOIN analysis_code c ON c.id = l.cost_center_id
            LEFT JOIN analysis_code d ON d.id = l.department_id
            LEFT JOIN analysis_code p ON p.id = l.project_id
            WHERE l.document_id = ?
            ORDER BY l.position
            SQL
            ,
            [$id],
        );
    }

    /** @return list<array<string, mixed>> the earliest first */
    public function discounts(int $id): array
    {
        return $this->db->fetchAllAssociative(
            <<<'SQL'
            SELECT x.through, x.percent, x.amount
            FROM item_discount x
            JOIN open_item i ON i.id = x.item_id
            WHERE i.document_id = ?
            ORDER BY x.through
            SQL
            ,
            [$id],
        );
    }

    /** @return array<string, mixed>|false the check that pays it: its number and state, and whether it is printed on its own */
    public function check(int $id): array|false
    {
        return $this->db->fetchAssociative(
            'SELECT number, state, payee IS NOT NULL AS printed FROM bank_check WHERE document_id = ?',
            [$id],
        );
    }

    /** @return list<array<string, mixed>> what it puts right, is put right by, names, or is named by, in a word */
    public function related(Document $document): array
    {
        return $this->db->fetchAllAssociative(
            <<<'SQL'
            SELECT id, number, CASE WHEN id = ? THEN 'puts right' WHEN replaces_id = ? THEN 'put right as' WHEN id = ?
                THEN 'against' ELSE 'credited by' END AS word
            FROM document
            WHERE id IN (?, ?) OR replaces_id = ? OR against_id = ?
            SQL
            ,
            [
                $document->replacesId ?? 0,
                $document->id(),
                $document->againstId ?? 0,
                $document->replacesId ?? 0,
                $document->againstId ?? 0,
                $document->id(),
                $document->id(),
            ],
        );
    }

    /** @return array<string, mixed>|false id and number of what it reverses, or is reversed by */
    public function other(Document $document): array|false
    {
        return $this->db->fetchAssociative('SELECT id, number, posting_date FROM document WHERE id = ?', [
            $document->reversesId ?? ($document->reversedById ?? 0),
        ]);
    }
}
