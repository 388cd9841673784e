<?php

declare(strict_types=1);

namespace Nelbix\App\Invoices;

use Doctrine\DBAL\ArrayParameterType;
use Doctrine\DBAL\Connection;
use Nelbix\Core\Ledger\Side;

/**
 * The documents of a trail: what some documents were settled with, set right by or came from, and what those were, step by step in both
 * directions of time.
 */
final readonly class TrailDocuments
{
    /** So many are drawn. */
    public const MOST = 16;

    /** So many steps are gone, one query each. */
    private const STEPS = 3;

    public function __construct(private Connection $db)
    {
    }

    /**
     * @param list<int> $of documents
     * @param list<Side> $sides that may be seen
     *
     * @return array{documents: array<int, array<string, mixed>>, settled: list<array<string, mixed>>, cut: bool} cut: there are more
     */
    public function of(int $companyId, array $of, array $sides): array
    {
        $ids = $next = $of;
        for ($step = 0; $step < self::STEPS && [] !== $next && \count($ids) <= self::MOST; ++$step) {
            $next = array_values(array_diff($this->near($next), $ids));
            $ids = [...$ids, ...$next];
        }
        if ([] === $ids) {
            return ['documents' => [], 'settled' => [], 'cut' => false];
        }
        $shown = \array_slice($ids, 0, max(self::MOST, \count($of)));
        $documents = $this->db->fetchAllAssociativeIndexed(
            <<<'SQL'
            SELECT d.id, d.side, d.number, d.kind, d.posting_date, d.document_date, d.total, d.currency,
                COALESCE(SUM(i.original), 0) AS original, COALESCE(SUM(i.open), 0) AS open
            FROM document d
            LEFT JOIN open_item i ON i.document_id = d.id
            WHERE d.company_id = :company AND d.state <> 'draft' AND d.id IN (:ids)
                -- what a customer is to be given back is owed in payables
                AND (d.side IN (:sides) OR EXISTS (SELECT 1 FROM open_item o WHERE o.document_id = d.id AND o.side IN (:sides)))
            GROUP BY d.id, d.side, d.number, d.kind, d.posting_date, d.document_date, d.total, d.currency
            ORDER BY d.posting_date, d.id
            SQL
            ,
            ['company' => $companyId, 'sides' => array_column($sides, 'value'), 'ids' => $shown],
            ['sides' => ArrayParameterType::STRING, 'ids' => ArrayParameterType::INTEGER],
        );

        return [
            'documents' => $documents,
            'settled' => [] === $documents ? [] : $this->settled(array_keys($documents)),
            'cut' => \count($ids) > \count($shown),
        ];
    }

    /**
     * @param list<int> $ids
     *
     * @return list<int>
     */
    private function near(array $ids): array
    {
        return array_map(
            'intval',
            $this->db->fetchFirstColumn(
                <<<'SQL'
                SELECT o.document_id
                FROM open_item i
                JOIN settlement_line l ON l.item_id = i.id
                JOIN settlement_line m ON m.settlement_id = l.settlement_id
                JOIN open_item o ON o.id = m.item_id
                WHERE i.document_id IN (:ids)
                UNION
                SELECT reversed_by_id FROM document WHERE id IN (:ids) AND reversed_by_id IS NOT NULL
                UNION
                SELECT reverses_id FROM document WHERE id IN (:ids) AND reverses_id IS NOT NULL
                UNION
                SELECT replaces_id FROM document WHERE id IN (:ids) AND replaces_id IS NOT NULL
                UNION
                SELECT id FROM document WHERE replaces_id IN (:ids)
                UNION
                SELECT against_id FROM document WHERE id IN (:ids) AND against_id IS NOT NULL
                UNION
                SELECT id FROM document WHERE against_id IN (:ids)
                LIMIT

                SQL
                .
                    2 * self::MOST,
                ['ids' => $ids],
                ['ids' => ArrayParameterType::INTEGER],
            ),
        );
    }

    /**
     * @param list<int> $documents
     *
     * @return list<array<string, mixed>> what each settlement applied to each of the documents, and the entry it was posted by
     */
    private function settled(array $documents): array
    {
        return $this->db->fetchAllAssociative(
            <<<'SQL'
            SELECT s.id, s.settled_on, s.undone_on, i.document_id, SUM(l.applied) AS applied, COALESCE(
                (SELECT MIN(e.number) FROM journal_entry e WHERE e.source_kind = 'settlement' AND e.source_id = s.id
                    AND e.reverses_id IS NULL),
                (SELECT MIN(e.number) FROM journal_entry e WHERE e.source_kind = 'document' AND e.source_id = s.document_id
                    AND e.reverses_id IS NULL)) AS entry
            FROM open_item i
            JOIN settlement_line l ON l.item_id = i.id
            JOIN settlement s ON s.id = l.settlement_id
            WHERE i.document_id IN (?)
            GROUP BY s.id, s.settled_on, s.undone_on, s.document_id, i.document_id
            ORDER BY s.settled_on, s.id
            LIMIT

            SQL
            .
                4 * self::MOST,
            [$documents],
            [ArrayParameterType::INTEGER],
        );
    }
}
