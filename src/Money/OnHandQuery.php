<?php

declare(strict_types=1);

namespace Nelbix\App\Money;

use Doctrine\DBAL\Connection;
use Nelbix\Core\Calendar\Day;

/**
 * Checks and cash that are not at the bank yet, and the slips that took others there. Amounts in minor units of the bank account's
 * currency.
 *
 * @phpstan-type OnHand array{key: string, id: int, number: string, day: string, code: string, name: string, method: string,
 *     their_number: string, reference: string, currency: string, amount: int, base: int, bank_id: int, bank: string, account_id: int}
 */
final readonly class OnHandQuery
{
    /** So many slips stand on the page; a file has them all. */
    public const LISTED = 100;

    public function __construct(private Connection $db)
    {
    }

    /** @return list<OnHand> by bank account, the oldest first, as things stood on a day */
    public function of(int $companyId, Day $day): array
    {
        $found = [];
        $rows = $this->db->iterateAssociative(
            <<<'SQL'
            SELECT d.id, d.number, d.posting_date AS day, COALESCE(p.code, '') AS code, COALESCE(p.name, '') AS name,
                d.method, d.their_number, d.reference, b.currency, IF(d.bank_amount = 0, d.total, d.bank_amount) AS amount,
                d.bank_base AS base, b.id AS bank_id, b.name AS bank, d.on_hand_account_id AS account_id
            FROM account a
            JOIN document d ON d.on_hand_account_id = a.id AND d.posting_date <= :day AND d.reverses_id IS NULL
            JOIN bank_account b ON b.id = d.bank_account_id
            LEFT JOIN party p ON p.id = d.party_id
            LEFT JOIN document r ON r.id = d.reversed_by_id
            WHERE a.company_id = :company AND a.role = 'money_on_hand'
                AND (r.id IS NULL OR r.posting_date > :day)
                AND NOT EXISTS (
                    SELECT 1
                    FROM deposit_line l
                    JOIN deposit_slip s ON s.id = l.slip_id
                    WHERE l.document_id = d.id AND s.deposited_on <= :day
                        AND (COALESCE(l.returned_on, s.reversed_on) IS NULL OR COALESCE(l.returned_on, s.reversed_on) > :day)
                )
            ORDER BY b.name, d.posting_date, d.id
            SQL
            ,
            ['company' => $companyId, 'day' => $day->iso()],
        );
        foreach ($rows as $r) {
            $row = [];
            foreach ($r as $name => $value) {
                $row[$name] = \in_array($name, ['id', 'amount', 'base', 'bank_id', 'account_id'], true)
                    ? (int) $value
                    : (string) $value;
            }
            /** @var OnHand $row */
            $row = ['key' => substr(hash('sha256', json_encode($row, \JSON_THROW_ON_ERROR)), 0, 32), ...$row];
            $found[] = $row;
        }

        return $found;
    }

    /** What the account of money on hand holds on a day, base minor units; null when there is none. */
    public function ledger(int $companyId, Day $day): ?int
    {
        $sum = $this->db->fetchOne(
            <<<'SQL'
            SELECT COALESCE(SUM(l.base), 0)
            FROM account a
            LEFT JOIN journal_line l ON l.account_id = a.id AND l.posting_date <= ?
            WHERE a.company_id = ? AND a.role = 'money_on_hand'
            HAVING COUNT(a.id) > 0
            SQL
            ,
            [$day->iso(), $companyId],
        );

        return false === $sum ? null : (int) $sum;
    }

    /** @return list<array<string, mixed>> the last first */
    public function slips(int $companyId, ?int $most = self::LISTED): array
    {
        return $this->db->fetchAllAssociative(
            <<<'SQL'
            SELECT s.id, s.number, s.deposited_on, s.reversed_on, s.amount, b.name AS bank, b.currency, u.name AS by_name,
                (SELECT COUNT(*) FROM deposit_line l WHERE l.slip_id = s.id) AS receipts
            FROM deposit_slip s
            JOIN bank_account b ON b.id = s.bank_account_id
            JOIN app_user u ON u.id = s.created_by_id
            WHERE s.company_id = ?
            ORDER BY s.id DESC

            SQL
            .(null === $most ? '' : 'LIMIT '.$most),
            [$companyId],
        );
    }

    /** @return list<array<string, mixed>> what stands on a slip, in its order */
    public function lines(int $slipId): array
    {
        return $this->db->fetchAllAssociative(
            <<<'SQL'
            SELECT d.id, d.number, d.posting_date AS day, COALESCE(p.name, '') AS name, d.method, d.their_number, d.reference,
                l.amount, l.returned_on
            FROM deposit_line l
            JOIN document d ON d.id = l.document_id
            LEFT JOIN party p ON p.id = d.party_id
            WHERE l.slip_id = ?
            ORDER BY l.id
            SQL
            ,
            [$slipId],
        );
    }
}
