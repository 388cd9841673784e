<?php

declare(strict_types=1);

namespace Nelbix\App\Banking;

use Doctrine\DBAL\Connection;
use Nelbix\App\Bank\CheckState;
use Nelbix\App\Platform\Keyset;

/** A check book and what became of its numbers. */
final readonly class RegisterQuery
{
    /** So many stand on a page; a file has them all. */
    private const PAGE = 200;

    private Keyset $highest;

    public function __construct(private Connection $db)
    {
        $this->highest = new Keyset(['k.number'], true);
    }

    /** @return array<string, mixed>|null the book with its bank account; null when it is of another company */
    public function book(int $companyId, int $book): ?array
    {
        return $this->db->fetchAssociative(
            <<<'SQL'
            SELECT c.*, b.name AS bank, b.code AS bank_code, b.account_number, b.currency
            FROM check_book c
            JOIN bank_account b ON b.id = c.bank_account_id
            WHERE c.id = ? AND b.company_id = ?
            SQL
            ,
            [$book, $companyId],
        ) ?:
            null;
    }

    /**
     * A page of its checks, the highest number first.
     *
     * @param string|null $after where it begins, of the page before
     *
     * @return array{rows: list<array<string, mixed>>, next: ?string}
     */
    public function page(int $book, ?CheckState $state, ?string $after = null): array
    {
        [$rows, $next] = $this->highest->page($this->rows($book, $state, $after, self::PAGE + 1), self::PAGE);

        return ['rows' => $rows, 'next' => $next];
    }

    /** @return \Generator<int, array<string, mixed>> all of them */
    public function each(int $book, ?CheckState $state): \Generator
    {
        yield from $this->highest->each(
            fn (?string $after, int $most): array => $this->rows($book, $state, $after, $most),
        );
    }

    /** @return list<array<string, mixed>> */
    private function rows(int $book, ?CheckState $state, ?string $after, int $most): array
    {
        [$lower, $place] = $this->highest->after($after);
        $only = null === $state ? '' : ' AND k.state = :state';

        return $this->db->fetchAllAssociative(
            <<<SQL
            SELECT {$this->highest->select()}, k.number, k.state, k.amount, k.check_date, k.reason, k.document_id, k.proposal_id,
                p.name AS payee, d.number AS payment, r.number AS run
            FROM bank_check k
            LEFT JOIN party p ON p.id = k.party_id
            LEFT JOIN document d ON d.id = k.document_id
            LEFT JOIN proposal r ON r.id = k.proposal_id
            WHERE k.check_book_id = :book$only$lower
            ORDER BY {$this->highest->order()}
            LIMIT $most
            SQL
            ,
            ['book' => $book, ...null === $state ? [] : ['state' => $state->value], ...$place],
        );
    }

    /** @return array{count: int, amount: int} of all of them, in the bank account's currency */
    public function foot(int $book, ?CheckState $state): array
    {
        $only = null === $state ? '' : ' AND state = :state';
        $sum = $this->db->fetchNumeric(
            "SELECT COUNT(*), COALESCE(SUM(amount), 0) FROM bank_check WHERE check_book_id = :book$only",
            ['book' => $book, ...null === $state ? [] : ['state' => $state->value]],
        ) ?: [0, 0];

        return ['count' => (int) $sum[0], 'amount' => (int) $sum[1]];
    }

    /** @return list<array<string, mixed>> what was issued and what the bank must not pay any more, the lowest number first */
    public function issued(int $book): array
    {
        return $this->db->fetchAllAssociative(
            <<<'SQL'
            SELECT k.number, k.state, k.amount, k.check_date, p.name AS payee
            FROM bank_check k
            LEFT JOIN party p ON p.id = k.party_id
            WHERE k.check_book_id = ? AND k.state IN ('issued', 'cleared', 'voided', 'stopped')
            ORDER BY k.number
            SQL
            ,
            [$book],
        );
    }

    /** @return list<array<string, mixed>> the checks of a run as they are printed, with the payee's address and the stock's alignment */
    public function toPrint(int $companyId, int $proposalId): array
    {
        return $this->db->fetchAllAssociative(
            <<<'SQL'
            SELECT k.*, COALESCE(v.name, NULLIF(a.name, ''), p.name) AS name, COALESCE(v.street, a.street, p.street) AS street,
                COALESCE(v.city, a.city, p.city) AS city, COALESCE(v.country, a.country, p.country) AS country, b.name AS bank, b.currency,
                c.offset_x, c.offset_y
            FROM bank_check k
            JOIN party p ON p.id = k.party_id
            LEFT JOIN party_address a ON a.party_id = p.id AND a.kind = 'remit'
            LEFT JOIN approved_payee v ON v.proposal_id = k.proposal_id AND v.payment = k.payment
            JOIN check_book c ON c.id = k.check_book_id
            JOIN bank_account b ON b.id = c.bank_account_id
            WHERE k.proposal_id = ? AND b.company_id = ? AND k.state IN ('reserved', 'printed', 'issued')
            ORDER BY k.number
            SQL
            ,
            [$proposalId, $companyId],
        );
    }

    /** @return list<array<string, mixed>> the check books of a company and how many of their checks are where */
    public function books(int $companyId): array
    {
        return $this->db->fetchAllAssociative(
            <<<'SQL'
            SELECT c.id, c.name, c.first_number, c.next_number, b.name AS bank, SUM(k.state = 'issued') AS issued,
                SUM(k.state = 'spoiled') AS spoiled, SUM(k.state = 'voided') AS voided
            FROM check_book c
            JOIN bank_account b ON b.id = c.bank_account_id
            LEFT JOIN bank_check k ON k.check_book_id = c.id
            WHERE b.company_id = ?
            GROUP BY c.id, c.name, c.first_number, c.next_number, b.name
            SQL
            ,
            [$companyId],
        );
    }
}
