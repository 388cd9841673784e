<?php

declare(strict_types=1);

namespace Nelbix\App\Close;

use Doctrine\DBAL\Connection;
use Nelbix\Core\Calendar\Day;

/** An account of the chart as of a day: what it holds and what moved it. */
final readonly class AccountQuery
{
    public function __construct(private Connection $db)
    {
    }

    /** @return array{id: int, number: string, name: string}|null null when it is of another company */
    public function find(int $companyId, int $id): ?array
    {
        $row = $this->db->fetchAssociative('SELECT id, number, name FROM account WHERE id = ? AND company_id = ?', [
            $id,
            $companyId,
        ]);

        return false === $row
            ? null
            : ['id' => (int) $row['id'], 'number' => (string) $row['number'], 'name' => (string) $row['name']];
    }

    /** Debits less credits, minor units of the base currency. */
    public function balance(int $id, Day $asOf): int
    {
        return (int) $this->db->fetchOne(
            'SELECT COALESCE(SUM(base), 0) FROM journal_line WHERE account_id = ? AND posting_date <= ?',
            [$id, $asOf->iso()],
        );
    }

    /** @return list<array<string, mixed>> the last 300 lines, the newest first */
    public function lines(int $id, Day $asOf): array
    {
        return $this->db->fetchAllAssociative(
            <<<'SQL'
            SELECT l.posting_date, e.number, e.text, l.base, l.text AS line_text, p.name
            FROM journal_line l
            JOIN journal_entry e ON e.id = l.entry_id
            LEFT JOIN party p ON p.id = l.party_id
            WHERE l.account_id = ? AND l.posting_date <= ?
            ORDER BY l.posting_date DESC, l.id DESC
            LIMIT 300
            SQL
            ,
            [$id, $asOf->iso()],
        );
    }
}
