<?php

declare(strict_types=1);

namespace Nelbix\App\Ledger;

use Doctrine\DBAL\Connection;

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

    /** @return list<EntryRow> the entries of a document and of the settlements that belong to it, or the one entry of that number */
    public function ofNumber(int $companyId, string $number): array
    {
        return $this->entries(
            'e.company_id = ? AND (e.number = ? OR e.document_id = (SELECT id FROM document WHERE company_id = ? '.
                'AND number = ?) OR e.settlement_id IN (SELECT s.id FROM settlement s JOIN document d ON d.id = '.
                's.document_id WHERE d.company_id = ? AND d.number = ?) OR e.delivery_id = (SELECT id FROM delivery '.
                'WHERE company_id = ? AND number = ?))',
            [$companyId, $number, $companyId, $number, $companyId, $number, $companyId, $number],
        );
    }

    /** @return list<EntryRow> */
    public function ofDocument(int $companyId, int $documentId): array
    {
        return $this->entries(
            'e.company_id = ? AND (e.document_id = ? OR e.settlement_id IN (SELECT id FROM settlement WHERE document_id = ?))',
            [$companyId, $documentId, $documentId],
        );
    }

    /** @return list<EntryRow> */
    public function ofDelivery(int $companyId, int $deliveryId): array
    {
        return $this->entries('e.company_id = ? AND e.delivery_id = ?', [$companyId, $deliveryId]);
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
