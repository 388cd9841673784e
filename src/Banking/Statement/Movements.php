<?php

declare(strict_types=1);

namespace Nelbix\App\Banking\Statement;

use Doctrine\DBAL\ArrayParameterType;
use Doctrine\DBAL\Connection;
use Nelbix\App\Bank\BankRow;
use Nelbix\App\Books\HowTakenBack;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Placement\Movement;

/** What journal entries moved on a bank account, in its currency, and how much of that lines of statements took. */
final readonly class Movements
{
    /** What an entry moved on account b: an entry in another currency by what its document says of the bank. */
    public const MOVED = <<<'SQL'
    SUM(CASE WHEN e.currency = b.currency THEN l.amount WHEN b.currency = c.base_currency THEN l.base ELSE 0 END)
        + MAX(IF(e.currency <> b.currency AND b.currency <> c.base_currency AND d.id IS NOT NULL,
            SIGN(l.base) * ABS(d.bank_amount), 0))
    SQL;

    /** The tables that MOVED is read from. */
    public const FROM = <<<'SQL'
    FROM bank_account b
    JOIN company c ON c.id = b.company_id
    JOIN journal_line l ON l.account_id = b.account_id
    JOIN journal_entry e ON e.id = l.entry_id
    LEFT JOIN document d ON e.source_kind = 'document' AND d.id = e.source_id
    SQL;

    public function __construct(private Connection $db)
    {
    }

    /**
     * What no line took yet, or not all of it. What was recorded by mistake and reversed never came to the bank: neither of the two
     * is there.
     *
     * @return list<Movement>
     */
    public function open(BankRow $bank, ?Day $from = null): array
    {
        $moved = self::MOVED;
        $tables = self::FROM;
        $since = null === $from ? '' : ' AND l.posting_date >= :from';
        $rows = $this->db->fetchAllAssociative(
            <<<SQL
            SELECT m.*, p.name AS party, k.number AS check_number, f.end_to_end, s.number AS slip
            FROM (
                SELECT e.id, e.posting_date, e.number, e.text, e.reverses_id, e.source_kind, e.source_id, d.id AS document_id,
                    d.number AS document, d.reference, d.their_number, d.party_id, d.taken_back, $moved AS moved,
                    (SELECT COALESCE(SUM(y.amount), 0) FROM statement_part y WHERE y.entry_id = e.id
                        AND y.bank_account_id = b.id AND y.undone_at IS NULL) AS taken
                $tables
                WHERE b.id = :bank$since
                GROUP BY e.id, e.posting_date, e.number, e.text, e.reverses_id, e.source_kind, e.source_id, d.id, d.number,
                    d.reference, d.their_number, d.party_id, d.taken_back, b.id
                HAVING moved <> taken
            ) m
            LEFT JOIN party p ON p.id = m.party_id
            LEFT JOIN bank_check k ON k.document_id = m.document_id AND k.state IN ('issued', 'cleared', 'returned')
            LEFT JOIN bank_file_line f ON f.document_id = m.document_id
            LEFT JOIN deposit_slip s ON m.source_kind = 'deposit' AND s.id = m.source_id
            ORDER BY m.posting_date, m.id
            SQL
            ,
            ['bank' => $bank->id, ...null === $from ? [] : ['from' => $from->iso()]],
        );
        $gone = self::mistakes($rows);

        return array_values(
            array_map(
                self::movement(...),
                array_filter($rows, static fn (array $r): bool => !isset($gone[(int) $r['id']])),
            ),
        );
    }

    /**
     * Receipts that stand and may bounce, of the last so many days.
     *
     * @return list<Movement>
     */
    public function receipts(BankRow $bank, Day $from): array
    {
        return array_map(
            static fn (array $r): Movement => new Movement(
                (int) $r['id'],
                Day::of((string) $r['posting_date']),
                (int) $r['total'],
                (string) $r['number'],
                array_values(array_filter([(string) $r['reference'], (string) $r['their_number']])),
                document: (int) $r['id'],
            ),
            $this->db->fetchAllAssociative(
                <<<'SQL'
                SELECT id, posting_date, IF(bank_amount <> 0, ABS(bank_amount), total) AS total, number, reference, their_number
                FROM document
                WHERE company_id = (SELECT company_id FROM bank_account WHERE id = :bank) AND bank_account_id = :bank
                    AND side = 'receivables' AND kind IN ('receipt', 'prepayment') AND state = 'posted' AND reverses_id IS NULL
                    AND posting_date >= :from
                ORDER BY id
                SQL
                ,
                ['bank' => $bank->id, 'from' => $from->iso()],
            ),
        );
    }

    /**
     * What some entries moved on an account and what lines took of that; locks the entries, so that two clerks wait for each other.
     *
     * @param list<int> $entries
     *
     * @return array<int, array{moved: int, taken: int, number: string, document: int, day: string}> by entry
     */
    public function lock(int $companyId, int $bankId, array $entries): array
    {
        sort($entries);
        $this->db->fetchAllAssociative(
            'SELECT id FROM journal_entry WHERE company_id = ? AND id IN (?) ORDER BY id FOR UPDATE',
            [$companyId, $entries],
            [1 => ArrayParameterType::INTEGER],
        );
        $moved = self::MOVED;
        $tables = self::FROM;
        $rows = [];
        foreach (
            $this->db->fetchAllAssociative(
                <<<SQL
                SELECT e.id, e.number, e.posting_date, d.id AS document_id, d.number AS document, $moved AS moved,
                    (SELECT COALESCE(SUM(y.amount), 0) FROM statement_part y WHERE y.entry_id = e.id
                        AND y.bank_account_id = b.id AND y.undone_at IS NULL) AS taken
                $tables
                WHERE b.id = ? AND e.company_id = ? AND e.id IN (?)
                GROUP BY e.id, e.number, e.posting_date, d.id, d.number, b.id
                SQL
                ,
                [$bankId, $companyId, $entries],
                [2 => ArrayParameterType::INTEGER],
            ) as $r
        ) {
            $rows[(int) $r['id']] = [
                'moved' => (int) $r['moved'],
                'taken' => (int) $r['taken'],
                'number' => (string) ($r['document'] ?? $r['number']),
                'document' => (int) $r['document_id'],
                'day' => (string) $r['posting_date'],
            ];
        }

        return $rows;
    }

    /**
     * Entries that reverse each other because of a mistake, or because the money never moved: both stand on no statement.
     *
     * @param list<array<string, mixed>> $rows
     *
     * @return array<int, true>
     */
    public static function mistakes(array $rows): array
    {
        $byId = array_column($rows, null, 'id');
        $gone = [];
        foreach ($rows as $r) {
            $first = $byId[$r['reverses_id'] ?? ''] ?? null;
            if (
                null !== $first
                && 0 === (int) $first['taken']
                && 0 === (int) $r['taken']
                && true !== HowTakenBack::tryFrom((string) $first['taken_back'])?->movedBothWays()
            ) {
                $gone[(int) $r['id']] = $gone[(int) $first['id']] = true;
            }
        }

        return $gone;
    }

    /** @param array<string, mixed> $r */
    private static function movement(array $r): Movement
    {
        return new Movement(
            (int) $r['id'],
            Day::of((string) $r['posting_date']),
            (int) $r['moved'] - (int) $r['taken'],
            (string) ($r['document'] ?? ($r['slip'] ?? $r['number'])),
            array_values(
                array_filter([(string) $r['end_to_end'], (string) $r['reference'], (string) $r['their_number']]),
            ),
            null === $r['check_number'] ? '' : (string) $r['check_number'],
            (string) ($r['party'] ?? $r['text']),
            (int) $r['document_id'],
        );
    }
}
