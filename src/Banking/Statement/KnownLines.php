<?php

declare(strict_types=1);

namespace Nelbix\App\Banking\Statement;

use Doctrine\DBAL\ArrayParameterType;
use Doctrine\DBAL\Connection;
use Nelbix\App\Platform\Actor;
use Nelbix\App\Platform\History;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Formats\Statement\BankStatement;
use Nelbix\Core\Formats\Statement\StatementLine;
use Nelbix\Core\Refused;

/** What of a statement is there already. Call inside a transaction that holds the bank account. */
final readonly class KnownLines
{
    public function __construct(private Connection $db, private History $history)
    {
    }

    /** @return array{id: int, taken: string}|null the same file, or the same number over the same days and balances in another format */
    public function statement(int $bankId, string $digest, BankStatement $statement): ?array
    {
        $row = $this->db->fetchAssociative(
            <<<'SQL'
            SELECT id, taken_at
            FROM bank_statement
            WHERE bank_account_id = :bank AND (digest = :digest AND from_day = :from AND to_day = :to
                OR from_day = :from AND to_day = :to AND opening = :opening AND closing = :closing)
            LIMIT 1
            SQL
            ,
            [
                'bank' => $bankId,
                'digest' => $digest,
                'from' => $statement->from->iso(),
                'to' => $statement->to->iso(),
                'opening' => $statement->opening,
                'closing' => $statement->closing,
            ],
        );

        return false === $row
            ? null
            : ['id' => (int) $row['id'], 'taken' => Day::of(substr((string) $row['taken_at'], 0, 10))->long()];
    }

    /**
     * Lines that are there: same day, amount and words. As many as are there, so a line that stands twice is known once when it was
     * there once.
     *
     * @param list<StatementLine> $lines
     *
     * @return array<int, int> the statement that has it, by place in $lines
     */
    public function lines(int $bankId, array $lines): array
    {
        if ([] === $lines) {
            return [];
        }
        $days = array_map(static fn (StatementLine $l): string => $l->day->iso(), $lines);
        $there = [];
        foreach (
            $this->db->iterateAssociative(
                <<<'SQL'
                SELECT statement_id, day, amount, bank_reference, text, check_number
                FROM statement_line
                WHERE bank_account_id = ? AND day BETWEEN ? AND ?
                ORDER BY id
                SQL
                ,
                [$bankId, min($days), max($days)],
            ) as $r
        ) {
            $there[
                self::key(
                    (string) $r['day'],
                    (int) $r['amount'],
                    (string) $r['bank_reference'],
                    (string) $r['text'],
                    (string) $r['check_number'],
                )
            ][] = (int) $r['statement_id'];
        }
        $known = [];
        foreach ($lines as $n => $l) {
            $key = self::key(
                $l->day->iso(),
                $l->amount,
                mb_substr($l->bankReference, 0, 120),
                mb_substr($l->text, 0, 500),
                mb_substr($l->check, 0, 20),
            );
            if ([] !== ($there[$key] ?? [])) {
                $known[$n] = array_shift($there[$key]);
            }
        }

        return $known;
    }

    /**
     * The statement that ends last before this one does.
     *
     * @return array{closing: int, to: string}|null
     */
    public function before(int $bankId, BankStatement $statement): ?array
    {
        $row = $this->db->fetchAssociative(
            <<<'SQL'
            SELECT closing, to_day
            FROM bank_statement
            WHERE bank_account_id = ? AND from_day <= ? AND to_day <= ?
            ORDER BY to_day DESC, id DESC
            LIMIT 1
            SQL
            ,
            [$bankId, $statement->from->iso(), $statement->to->iso()],
        );

        return false === $row
            ? null
            : ['closing' => (int) $row['closing'], 'to' => Day::of((string) $row['to_day'])->long()];
    }

    /**
     * @param list<int> $statements
     *
     * @throws Refused once something of one is placed, also when that was undone: the history needs its line
     */
    public function drop(Actor $actor, array $statements): void
    {
        $this->db->fetchAllAssociative(
            'SELECT id FROM statement_line WHERE statement_id IN (?) ORDER BY id FOR UPDATE',
            [$statements],
            [ArrayParameterType::INTEGER],
        );
        $placed = $this->db->fetchAssociative(
            <<<'SQL'
            SELECT COUNT(DISTINCT t.id) AS count, MIN(t.day) AS day
            FROM statement_line t
            JOIN statement_part y ON y.line_id = t.id
            WHERE t.statement_id IN (?)
            HAVING count > 0
            SQL
            ,
            [$statements],
            [ArrayParameterType::INTEGER],
        );
        if (false !== $placed) {
            throw Refused::because(
                'overlap',
                \sprintf(
                    '%d of the lines that are there have been placed, the first of %s; a statement is replaced only while nothing of it '.
                        'was. Take only the lines that are new.',
                    $placed['count'],
                    Day::of((string) $placed['day'])->long(),
                ),
            );
        }
        foreach (
            ['DELETE FROM statement_line WHERE statement_id IN (?)', 'DELETE FROM bank_statement WHERE id IN (?)'] as $sql
        ) {
            $this->db->executeStatement($sql, [$statements], [ArrayParameterType::INTEGER]);
        }
        foreach ($statements as $id) {
            $this->history->note($actor, 'bank_statement', $id, 'replaced');
        }
    }

    private static function key(string $day, int $amount, string $reference, string $text, string $check): string
    {
        // what one format writes as a name the other writes as text: the bank's own reference says it where it is there
        return implode('|', [
            $day,
            $amount,
            '' === $reference || 1 === preg_match('/\A(NONREF|0*)\z/i', $reference) ? $text : $reference,
            $check,
        ]);
    }
}
