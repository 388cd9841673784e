<?php

declare(strict_types=1);

namespace Nelbix\App\Invoices;

use Brick\Math\BigDecimal;
use Doctrine\DBAL\Connection;
use Nelbix\App\Books\Approval;
use Nelbix\App\Books\Document;
use Nelbix\App\Ledger\Rates;
use Nelbix\Core\Ledger\Side;

/** What the page of one document shows of it. */
final readonly class DocumentQuery
{
    public function __construct(private Connection $db, private Rates $rates)
    {
    }

    /** The table's rate, for whoever is to approve a vendor invoice that was entered at one far off it. */
    public function farFrom(Document $document, string $base): ?string
    {
        if (
            Side::Payables !== $document->side
            || $document->currency === $base
            || null === $document->postingDate
            || !\in_array($document->approval, [Approval::Awaiting, Approval::Refused], true)
        ) {
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

    /**
     * Who and what else its page names, asked at once.
     *
     * @return array{party: array<string, mixed>|false, other: array<string, mixed>|false, check: array<string, mixed>|false,
     *     related: list<array<string, mixed>>} the party; what it reverses, or is reversed by; the check that pays it, and whether it is
     *                                         printed on its own; what it puts right, is put right by, names, or is named by, in a word
     */
    public function names(Document $document): array
    {
        $found = ['party' => [], 'other' => [], 'check' => [], 'related' => []];
        foreach (
            $this->db->fetchAllAssociative(
                <<<'SQL'
                SELECT 'party' AS part, id, code, name, '' AS number, '' AS posting_date, '' AS state, 0 AS printed, '' AS word
                FROM party WHERE id = :party
                UNION ALL
                SELECT 'other', id, '', '', number, posting_date, '', 0, '' FROM document WHERE id = :other
                UNION ALL
                SELECT 'check', id, '', '', number, '', state, payee IS NOT NULL, '' FROM bank_check WHERE document_id = :document
                UNION ALL
                SELECT 'related', id, '', '', number, '', '', 0, CASE WHEN id = :replaces THEN 'puts right'
                    WHEN replaces_id = :document THEN 'put right as' WHEN id = :against THEN 'against' ELSE 'credited by' END
                FROM document
                WHERE id IN (:replaces, :against) OR replaces_id = :document OR against_id = :document
                SQL
                ,
                [
                    'party' => $document->partyId ?? 0,
                    'other' => $document->reversesId ?? ($document->reversedById ?? 0),
                    'document' => $document->id(),
                    'replaces' => $document->replacesId ?? 0,
                    'against' => $document->againstId ?? 0,
                ],
            ) as $row
        ) {
            $found[$row['part']][] = $row;
        }

        return [
            'party' => $found['party'][0] ?? false,
            'other' => $found['other'][0] ?? false,
            'check' => $found['check'][0] ?? false,
            'related' => $found['related'],
        ];
    }

    /**
     * @return array{items: list<array<string, mixed>>, discounts: list<array<string, mixed>>} items with their accounts and who holds
     *                                                                                         them; the earliest discount first
     */
    public function items(int $id): array
    {
        $items = $discounts = [];
        foreach (
            $this->db->fetchAllAssociative(
                <<<'SQL'
                SELECT i.*, a.number AS account, i.reserved_as AS reserved_by, i.reserved_by_id AS reserved_id, x.through, x.percent,
                    x.amount
                FROM open_item i
                JOIN account a ON a.id = i.account_id
                LEFT JOIN item_discount x ON x.item_id = i.id
                WHERE i.document_id = ?
                ORDER BY i.part, x.through
                SQL
                ,
                [$id],
            ) as $row
        ) {
            $items[(int) $row['id']] ??= $row;
            if (null !== $row['through']) {
                $discounts[] = $row;
            }
        }
        usort($discounts, static fn (array $a, array $b): int => $a['through'] <=> $b['through']);

        return ['items' => array_values($items), 'discounts' => $discounts];
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
}
