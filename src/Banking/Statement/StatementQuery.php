<?php

declare(strict_types=1);

namespace Nelbix\App\Banking\Statement;

use Doctrine\DBAL\ArrayParameterType;
use Doctrine\DBAL\Connection;
use Doctrine\DBAL\ParameterType;
use Nelbix\Core\Calendar\Day;

/** Statements of bank accounts and their lines, as scalar rows. */
final readonly class StatementQuery
{
    /** So many lines stand on a page. */
    public const PAGE = 300;

    public function __construct(private Connection $db)
    {
    }

    /** @return list<array<string, mixed>> the accounts in use with their last statement, and what of their lines waits */
    public function accounts(int $companyId): array
    {
        return $this->db->fetchAllAssociative(
            <<<'SQL'
            SELECT b.id, b.code, b.name, b.currency, s.to_day, s.closing, COALESCE(w.count, 0) AS waiting, COALESCE(w.worth, 0) AS worth,
                (SELECT MAX(r.as_of) FROM reconciliation r WHERE r.bank_account_id = b.id AND r.withdrawn_at IS NULL) AS reconciled
            FROM bank_account b
            LEFT JOIN bank_statement s ON s.id = (SELECT t.id FROM bank_statement t WHERE t.bank_account_id = b.id
                ORDER BY t.to_day DESC, t.id DESC LIMIT 1)
            LEFT JOIN (
                SELECT bank_account_id, COUNT(*) AS count, SUM(ABS(waiting)) AS worth
                FROM statement_line
                WHERE company_id = :company AND waiting <> 0
                GROUP BY bank_account_id
            ) w ON w.bank_account_id = b.id
            WHERE b.company_id = :company AND b.retired = 0
            ORDER BY b.code
            SQL
            ,
            ['company' => $companyId],
        );
    }

    /** @return list<array<string, mixed>> of a bank account, the latest first */
    public function statements(int $bankId, int $most = 60): array
    {
        return $this->db->fetchAllAssociative(
            <<<'SQL'
            SELECT s.id, s.number, s.format, s.from_day, s.to_day, s.opening, s.closing, s.gap, s.taken_at, s.file_id, u.name AS by_name,
                COUNT(l.id) AS count, COALESCE(SUM(l.waiting <> 0), 0) AS waiting
            FROM bank_statement s
            JOIN app_user u ON u.id = s.taken_by_id
            LEFT JOIN statement_line l ON l.statement_id = s.id
            WHERE s.bank_account_id = ?
            GROUP BY s.id, s.number, s.format, s.from_day, s.to_day, s.opening, s.closing, s.gap, s.taken_at, s.file_id, u.name
            ORDER BY s.to_day DESC, s.id DESC
            LIMIT ?
            SQL
            ,
            [$bankId, $most],
            [1 => ParameterType::INTEGER],
        );
    }

    /**
     * @param int $id 0 for the first that has lines waiting, else the last one
     *
     * @return array<string, mixed>|null with the ids of the one before and the one after
     */
    public function statement(int $bankId, int $id): ?array
    {
        $row = $this->db->fetchAssociative(
            <<<'SQL'
            SELECT s.*, k.moved, k.placed, k.waiting, k.count
            FROM (
                SELECT t.id, COALESCE(SUM(ABS(l.amount)), 0) AS moved, COALESCE(SUM(ABS(l.amount - l.waiting)), 0) AS placed,
                    COALESCE(SUM(l.waiting <> 0), 0) AS waiting, COUNT(l.id) AS count
                FROM bank_statement t
                LEFT JOIN statement_line l ON l.statement_id = t.id
                WHERE t.bank_account_id = :bank AND (:id = 0 OR t.id = :id)
                GROUP BY t.id
            ) k
            JOIN bank_statement s ON s.id = k.id
            ORDER BY k.waiting = 0, IF(k.waiting = 0, NULL, s.from_day), s.to_day DESC, s.id DESC
            LIMIT 1
            SQL
            ,
            ['bank' => $bankId, 'id' => $id],
        );
        if (false === $row) {
            return null;
        }
        $beside = static fn (string $than, string $order): string => <<<SQL
        SELECT id FROM bank_statement WHERE bank_account_id = ? AND (to_day, id) $than (?, ?) ORDER BY to_day $order, id $order LIMIT 1
        SQL;
        $with = [$bankId, $row['to_day'], $row['id']];

        return [
            ...$row,
            'before' => $this->db->fetchOne($beside('<', 'DESC'), $with) ?: null,
            'after' => $this->db->fetchOne($beside('>', 'ASC'), $with) ?: null,
        ];
    }

    /**
     * The lines of a statement in the bank's order, each with the balance before it.
     *
     * @return list<array<string, mixed>>
     */
    public function lines(int $statementId, bool $waitingOnly, int $after = 0, int $most = self::PAGE): array
    {
        $only = $waitingOnly ? ' AND l.waiting <> 0' : '';

        return $this->db->fetchAllAssociative(
            <<<SQL
            SELECT l.*, s.opening + COALESCE((SELECT SUM(k.amount) FROM statement_line k
                WHERE k.statement_id = l.statement_id AND k.place < l.place), 0) AS balance
            FROM statement_line l
            JOIN bank_statement s ON s.id = l.statement_id
            WHERE l.statement_id = ? AND l.place > ?$only
            ORDER BY l.place
            LIMIT ?
            SQL
            ,
            [$statementId, $after, $most],
            [2 => ParameterType::INTEGER],
        );
    }

    /**
     * @param list<int> $ids
     *
     * @return list<array<string, mixed>> those of this account that wait
     */
    public function picked(int $bankId, array $ids): array
    {
        return $this->db->fetchAllAssociative(
            'SELECT * FROM statement_line WHERE bank_account_id = ? AND waiting <> 0 AND id IN (?) ORDER BY id',
            [$bankId, [0, ...$ids]],
            [1 => ArrayParameterType::INTEGER],
        );
    }

    /** @return array<string, mixed>|null a line with its account and statement; null when it is of another company */
    public function line(int $companyId, int $id): ?array
    {
        return $this->db->fetchAssociative(
            <<<'SQL'
            SELECT l.*, b.code AS bank, b.name AS bank_name, b.currency, s.number AS statement, s.from_day, s.to_day, s.file_id
            FROM statement_line l
            JOIN bank_account b ON b.id = l.bank_account_id
            JOIN bank_statement s ON s.id = l.statement_id
            WHERE l.id = ? AND l.company_id = ?
            SQL
            ,
            [$id, $companyId],
        ) ?:
            null;
    }

    /**
     * @param list<int> $lines
     *
     * @return array<int, list<array<string, mixed>>> what they are placed on, by line; undone parts at the end
     */
    public function parts(array $lines): array
    {
        $parts = [];
        foreach (
            $this->db->fetchAllAssociative(
                <<<'SQL'
                SELECT y.*, e.number AS entry, e.posting_date, d.number AS document, d.side, d.kind AS document_kind, p.name AS party,
                    u.name AS by_name, v.name AS undone_by, r.name AS rule
                FROM statement_part y
                LEFT JOIN journal_entry e ON e.id = y.entry_id
                LEFT JOIN document d ON d.id = COALESCE(y.document_id, IF(e.source_kind = 'document', e.source_id, NULL))
                LEFT JOIN party p ON p.id = d.party_id
                LEFT JOIN reading_rule r ON r.id = y.rule_id
                JOIN app_user u ON u.id = y.placed_by_id
                LEFT JOIN app_user v ON v.id = y.undone_by_id
                WHERE y.line_id IN (?)
                ORDER BY y.undone_at IS NOT NULL, y.id
                SQL
                ,
                [$lines],
                [ArrayParameterType::INTEGER],
            ) as $r
        ) {
            $parts[(int) $r['line_id']][] = $r;
        }

        return $parts;
    }

    /**
     * What waits at each bank account in use: lines without a place, and checks that nobody cashed.
     *
     * @return list<array<string, mixed>> id, code, name, currency, kind (lines or stale), count and worth in minor units of the account
     */
    public function waiting(int $companyId, Day $staleBefore): array
    {
        return $this->db->fetchAllAssociative(
            <<<'SQL'
            SELECT b.id, b.code, b.name, b.currency, 'lines' AS kind, COUNT(*) AS count, SUM(ABS(l.waiting)) AS worth
            FROM statement_line l
            JOIN bank_account b ON b.id = l.bank_account_id
            WHERE l.company_id = :company AND l.waiting <> 0 AND b.retired = 0
            GROUP BY b.id, b.code, b.name, b.currency
            UNION ALL
            SELECT b.id, b.code, b.name, b.currency, 'stale', COUNT(*), SUM(k.amount)
            FROM bank_check k
            JOIN check_book c ON c.id = k.check_book_id
            JOIN bank_account b ON b.id = c.bank_account_id
            WHERE b.company_id = :company AND k.state = 'issued' AND k.check_date <= :before
            GROUP BY b.id, b.code, b.name, b.currency
            ORDER BY code
            SQL
            ,
            ['company' => $companyId, 'before' => $staleBefore->iso()],
        );
    }

    /** @return list<array<string, mixed>> checks that were issued so many days ago, or more, and that no statement has shown */
    public function stale(int $companyId, Day $before): array
    {
        return $this->db->fetchAllAssociative(
            <<<'SQL'
            SELECT k.number, k.check_date, k.amount, k.check_book_id, k.document_id, p.name AS payee, d.number AS payment, b.name AS bank,
                b.currency
            FROM bank_check k
            JOIN check_book c ON c.id = k.check_book_id
            JOIN bank_account b ON b.id = c.bank_account_id
            LEFT JOIN party p ON p.id = k.party_id
            LEFT JOIN document d ON d.id = k.document_id
            WHERE b.company_id = ? AND k.state = 'issued' AND k.check_date <= ?
            ORDER BY k.check_date, k.number
            LIMIT 500
            SQL
            ,
            [$companyId, $before->iso()],
        );
    }
}
