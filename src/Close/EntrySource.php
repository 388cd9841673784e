<?php

declare(strict_types=1);

namespace Nelbix\App\Close;

use Doctrine\DBAL\Connection;

/** What entries were posted for: the documents their trail is drawn of, and the page of what has none. */
final readonly class EntrySource
{
    /** More documents are not drawn. */
    private const MOST = 8;

    public function __construct(private Connection $db)
    {
    }

    /**
     * @param non-empty-list<int> $entries
     *
     * @return array{documents: list<int>, route: ?string, id: int, number: string} documents behind the entries; and where they were posted
     *                                                                              for a delivery, a deposit, a bank line or a revaluation,
     *                                                                              that record
     */
    public function of(array $entries): array
    {
        $in = implode(',', $entries);
        $documents = $this->db->fetchFirstColumn(
            <<<SQL
            SELECT e.source_id FROM journal_entry e WHERE e.id IN ($in) AND e.source_kind = 'document'
            UNION
            SELECT i.document_id
            FROM journal_entry e
            JOIN settlement_line l ON l.settlement_id = e.source_id
            JOIN open_item i ON i.id = l.item_id
            WHERE e.id IN ($in) AND e.source_kind = 'settlement'
            UNION
            SELECT l.document_id
            FROM journal_entry e
            JOIN deposit_line l ON l.slip_id = e.source_id
            WHERE e.id IN ($in) AND e.source_kind = 'deposit' AND l.document_id IS NOT NULL
            UNION
            SELECT m.document_id
            FROM journal_entry e
            JOIN delivery_line d ON d.delivery_id = e.source_id
            JOIN goods_move m ON m.delivery_line_id = d.id
            WHERE e.id IN ($in) AND e.source_kind = 'delivery' AND m.document_id IS NOT NULL
            LIMIT

            SQL.self::MOST,
        );
        $other =
            $this->db->fetchAssociative(
                <<<SQL
                SELECT e.source_kind, e.source_id, COALESCE(g.number, s.number, k.number, '') AS number, l.statement_id
                FROM journal_entry e
                LEFT JOIN delivery g ON e.source_kind = 'delivery' AND g.id = e.source_id
                LEFT JOIN deposit_slip s ON e.source_kind = 'deposit' AND s.id = e.source_id
                LEFT JOIN goods_slip k ON e.source_kind = 'goods_slip' AND k.id = e.source_id
                LEFT JOIN statement_line l ON e.source_kind = 'bank_line' AND l.id = e.source_id
                WHERE e.id IN ($in) AND e.source_kind NOT IN ('document', 'settlement')
                LIMIT 1
                SQL
                ,
            ) ?:
            null;
        $route = match ($other['source_kind'] ?? null) {
            'delivery' => 'delivery',
            'deposit' => 'deposit_slip',
            'bank_line' => 'statement',
            'revaluation' => 'revaluation',
            'year_end' => 'year_end',
            default => null,
        };

        return [
            'documents' => array_map('intval', $documents),
            'route' => $route,
            'id' => (int) ($other['statement_id'] ?? ($other['source_id'] ?? 0)),
            'number' => (string) ($other['number'] ?? ''),
        ];
    }
}
