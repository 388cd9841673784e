<?php

declare(strict_types=1);

namespace Nelbix\App\Money;

use Doctrine\DBAL\ArrayParameterType;
use Doctrine\DBAL\Connection;

/**
 * What a customer is told after its money, or a contra, was posted: what was placed on what, what stays open of it, and what has no
 * place yet.
 *
 * @phpstan-type LetterLine array{number: string, their_number: string, kind: string, dated: string, settled: int, discount: int,
 *     let_go: int, open: int}
 * @phpstan-type Letter array{document: array<string, mixed>, party: array<string, mixed>, lines: list<LetterLine>, unplaced: int}
 */
final readonly class PlacedLetter
{
    public function __construct(private Connection $db)
    {
    }

    /** @return Letter|null null when there is no such money or contra that stands */
    public function of(int $companyId, int $documentId): ?array
    {
        $document = $this->db->fetchAssociative(
            <<<'SQL'
            SELECT d.id, d.number, d.kind, d.posting_date, d.currency, d.total, d.their_number, d.reference, d.party_id
            FROM document d
            WHERE d.company_id = ? AND d.id = ? AND d.state = 'posted' AND d.reverses_id IS NULL
                AND ((d.kind IN ('receipt', 'prepayment') AND d.side = 'receivables') OR d.kind = 'contra')
            SQL
            ,
            [$companyId, $documentId],
        );
        $party =
            false === $document
                ? false
                : $this->db->fetchAssociative(
                    <<<'SQL'
                    SELECT id, code, name, street, city, country, email, language
                    FROM party
                    WHERE nobody = 0 AND side = 'receivables'
                        AND (id = :id OR id = (SELECT linked_party_id FROM party WHERE id = :id AND side = 'payables'))
                    SQL
                    ,
                    ['id' => $document['party_id']],
                );
        if (false === $document || false === $party) {
            return null;
        }

        return [
            'document' => $document,
            'party' => $party,
            'lines' => $this->lines($documentId),
            'unplaced' => (int) $this->db->fetchOne(
                "SELECT -COALESCE(SUM(open), 0) FROM open_item WHERE document_id = ? AND side = 'receivables' AND open < 0",
                [$documentId],
            ),
        ];
    }

    /** @return list<LetterLine> by due date; what two settlements placed on one item stands once */
    private function lines(int $documentId): array
    {
        $settlements = $this->db->fetchFirstColumn(
            <<<'SQL'
            SELECT DISTINCT s.id
            FROM open_item i
            JOIN settlement_line l ON l.item_id = i.id
            JOIN settlement s ON s.id = l.settlement_id AND s.undone_on IS NULL
            WHERE i.document_id = ?
            SQL
            ,
            [$documentId],
        );
        if ([] === $settlements) {
            return [];
        }
        $rows = $this->db->fetchAllAssociative(
            <<<'SQL'
            SELECT i.id, i.number, d.their_number, i.kind, i.document_date AS dated, i.open, SUM(l.applied) AS settled,
                COALESCE((SELECT SUM(IF(j.kind = 'discount', j.amount, 0)) FROM settlement_adjustment j
                    WHERE j.item_id = i.id AND j.settlement_id IN (:settlements)), 0) AS discount,
                COALESCE((SELECT SUM(IF(j.kind = 'discount', 0, j.amount)) FROM settlement_adjustment j
                    WHERE j.item_id = i.id AND j.settlement_id IN (:settlements)), 0) AS let_go
            FROM settlement_line l
            JOIN open_item i ON i.id = l.item_id AND i.document_id <> :document
            JOIN document d ON d.id = i.document_id
            WHERE l.settlement_id IN (:settlements)
            GROUP BY i.id, i.number, d.their_number, i.kind, i.document_date, i.open, i.due_date
            ORDER BY i.due_date, i.id
            SQL
            ,
            ['settlements' => $settlements, 'document' => $documentId],
            ['settlements' => ArrayParameterType::INTEGER],
        );

        return array_map(
            static fn (array $r): array => [
                'number' => (string) $r['number'],
                'their_number' => (string) $r['their_number'],
                'kind' => (string) $r['kind'],
                'dated' => (string) $r['dated'],
                'settled' => (int) $r['settled'],
                'discount' => -(int) $r['discount'],
                'let_go' => -(int) $r['let_go'],
                'open' => (int) $r['open'],
            ],
            $rows,
        );
    }
}
