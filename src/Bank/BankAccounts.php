<?php

declare(strict_types=1);

namespace Nelbix\App\Bank;

use Doctrine\DBAL\Connection;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\ProblemKind;
use Nelbix\Core\Refused;

/** The bank accounts of a company, as values: the ones in use, one by its code, one by its id. */
final readonly class BankAccounts
{
    private const COLUMNS = 'id, code, name, currency, account_id, iban, bic, routing_number, account_number, company_number, balanced';

    public function __construct(private Connection $db)
    {
    }

    /** @return list<BankRow> in use, by code */
    public function inUse(int $companyId): array
    {
        return array_map(
            BankRow::of(...),
            $this->db->fetchAllAssociative(
                'SELECT '.self::COLUMNS.' FROM bank_account WHERE company_id = ? AND retired = 0 ORDER BY code',
                [$companyId],
            ),
        );
    }

    /** @return array<string, string> names of those in use, by code: what a form offers */
    public function names(int $companyId): array
    {
        return array_column($this->inUse($companyId), 'name', 'code');
    }

    /** The one in use with this code; an empty code is the company's first. Null when there is none. */
    public function byCode(int $companyId, string $code): ?BankRow
    {
        $row = $this->db->fetchAssociative(
            'SELECT '.
                self::COLUMNS.
                " FROM bank_account WHERE company_id = ? AND retired = 0 AND ? IN (code, '') ORDER BY code LIMIT 1",
            [$companyId, $code],
        );

        return false === $row ? null : BankRow::of($row);
    }

    /** The number that its next printed check would get, of the book whose series began first; null when it has no book. */
    public function nextCheck(int $bankAccountId): ?int
    {
        $next = $this->db->fetchOne(
            'SELECT next_number FROM check_book WHERE bank_account_id = ? ORDER BY first_number, id LIMIT 1',
            [$bankAccountId],
        );

        return false === $next ? null : (int) $next;
    }

    /** @throws Refused when there is none with this code */
    public function named(int $companyId, string $code, string $field = 'bank'): BankRow
    {
        return $this->byCode($companyId, $code) ??
            throw Refused::because(
                $field,
                '' === $code
                    ? 'There is no bank account in use; add one under Setup, Bank accounts.'
                    : \sprintf(
                        'There is no bank account “%s”; choose one from the list.',
                        mb_strimwidth($code, 0, 30, '…'),
                    ),
                ProblemKind::Unknown,
            );
    }

    /** One of the company's, in use or not. */
    public function find(int $companyId, int $id): ?BankRow
    {
        $row = $this->db->fetchAssociative(
            'SELECT '.self::COLUMNS.' FROM bank_account WHERE id = ? AND company_id = ?',
            [$id, $companyId],
        );

        return false === $row ? null : BankRow::of($row);
    }

    /** @return list<array<string, mixed>> all of them with what their ledger accounts hold on a day, base currency */
    public function balances(int $companyId, Day $day): array
    {
        return $this->db->fetchAllAssociative(
            <<<'SQL'
            SELECT b.id, b.code, b.name, b.currency, COALESCE(SUM(l.base), 0) AS balance
            FROM bank_account b
            LEFT JOIN journal_line l ON l.account_id = b.account_id AND l.posting_date <= ?
            WHERE b.company_id = ?
            GROUP BY b.id, b.code, b.name, b.currency
            ORDER BY b.code
            SQL
            ,
            [$day->iso(), $companyId],
        );
    }
}
