<?php

declare(strict_types=1);

namespace Nelbix\App\Books;

use Doctrine\DBAL\Connection;
use Nelbix\App\Ledger\Source;

/**
 * Reads journal entries with their lines.
 *
 * @phpstan-type LineRow array{account: string, name: string, base: int, amount: int, text: string, party: ?string, analysis: string}
 * @phpstan-type EntryRow array{id: int, number: string, posting_date: string, text: string, currency: string, bypass: bool,
 *     by: string, reverses: ?string, lines: list<LineRow>}
 */
final readonly class JournalQuery
{
    public function __construct(private Connection $db)
    {
    }

    /** @return list<EntryRow> the one entry of that number */
    public function ofNumber(int $companyId, string $number): array
    {
        return $this->entries('e.company_id = ? AND e.number = ?', [$companyId, $number]);
    }

    /**
     * @param list<Source> $also other records that belong to it
     *
     * @return list<EntryRow> of a document and of the settlements that belong to it
     */
    public function ofDocument(int $companyId, int $documentId, array $also = []): array
    {
        [$or, $parameters] = self::or($also);

        return $this->entries(
            "e.company_id = ? AND ((e.source_kind = 'document' AND e.source_id = ?) OR (e.source_kind = 'settlement' ".
                "AND e.source_id IN (SELECT id FROM settlement WHERE document_id = ?))$or)",
            [$companyId, $documentId, $documentId, ...$parameters],
        );
    }

    /**
     * @param list<Source> $also other records that belong to it
     *
     * @return list<EntryRow> of any other record
     */
    public function ofSource(int $companyId, Source $source, array $also = []): array
    {
        [$or, $parameters] = self::or($also);

        return $this->entries("e.company_id = ? AND ((e.source_kind = ? AND e.source_id = ?)$or)", [
            $companyId,
            $source->kind->value,
            $source->id,
            ...$parameters,
        ]);
    }

    /**
     * @param list<Source> $also
     *
     * @return array{string, list<mixed>}
     */
    private static function or(array $also): array
    {
        return [
            str_repeat(' OR (e.source_kind = ? AND e.source_id = ?)', \count($also)),
            array_merge(...array_map(static fn (Source $s): array => [$s->kind->value, $s->id], $also)),
        ];
    }

    /**
     * @param list<mixed> $parameters
     *
     * @return list<EntryRow>
     */
    private function entries(string $where, array $parameters): array
    {
        $entries = [];
        $rows = $this->db->fetchAllAssociative(
            <<<'SQL'
            SELECT e.id, e.number, e.posting_date, e.text, e.currency, e.bypass, u.name AS by_name, r.number AS reverses,
                a.number AS account, a.name, l.base, l.amount, l.text AS line_text, p.code AS party,
                CONCAT_WS(' ', cc.code, dp.code, pj.code) AS analysis
            FROM journal_entry e
            JOIN journal_line l ON l.entry_id = e.id
            JOIN account a ON a.id = l.account_id
            JOIN app_user u ON u.id = e.created_by_id
            LEFT JOIN journal_entry r ON r.id = e.reverses_id
            LEFT JOIN party p ON p.id = l.party_id
            LEFT JOIN analysis_code cc ON cc.id = l.cost_center_id
            LEFT JOIN analysis_code dp ON dp.id = l.department_id
            LEFT JOIN analysis_code pj ON pj.id = l.project_id
            WHERE

            SQL
            .
                $where.
                ' ORDER BY e.id, l.position',
            $parameters,
        );
        foreach ($rows as $r) {
            $id = (int) $r['id'];
            $entries[$id] ??= [
                'id' => $id,
                'number' => (string) $r['number'],
                'posting_date' => (string) $r['posting_date'],
                'text' => (string) $r['text'],
                'currency' => (string) $r['currency'],
                'bypass' => (bool) $r['bypass'],
                'by' => (string) $r['by_name'],
                'reverses' => null === $r['reverses'] ? null : (string) $r['reverses'],
                'lines' => [],
            ];
            $entries[$id]['lines'][] = [
                'account' => (string) $r['account'],
                'name' => (string) $r['name'],
                'base' => (int) $r['base'],
                'amount' => (int) $r['amount'],
                'text' => (string) $r['line_text'],
                'party' => null === $r['party'] ? null : (string) $r['party'],
                'analysis' => (string) $r['analysis'],
            ];
        }

        return array_values($entries);
    }
}
