<?php

declare(strict_types=1);

namespace Nelbix\App\Payables;

use Doctrine\DBAL\Connection;
use Nelbix\Core\Calendar\Day;

/**
 * What a bank account is expected to hold on a pay date, in its own currency: its ledger today, what is posted for the days until then, less what other open runs will take.
 *
 * @phpstan-type Outlook array{id: int, code: string, name: string, currency: string, iban: string, balance: int, later: int, runs: int, count: int, expected: int}
 */
final readonly class BankOutlook
{
    public function __construct(private Connection $db)
    {
    }

    /**
     * @param int|string $bank   an id, or a code; an empty code is the company's first account
     * @param int        $except the run that is looked at
     *
     * @return Outlook|null
     */
    public function of(int $companyId, int|string $bank, Day $today, Day $payDate, int $except = 0): ?array
    {
        $account = $this->db->fetchAssociative('SELECT b.id, b.code, b.name, b.currency, b.iban, b.account_id, b.currency = c.base_currency AS in_base FROM bank_account b JOIN company c ON c.id = b.company_id WHERE b.company_id = ? AND '.(\is_int($bank) ? 'b.id = ?' : "b.retired = 0 AND ? IN (b.code, '')").' ORDER BY b.code LIMIT 1', [$companyId, $bank]);
        if (false === $account) {
            return null;
        }
        // an account in a foreign currency counts what moved in that currency
        $moved = (bool) $account['in_base'] ? 'l.base' : 'IF(e.currency = '.$this->db->quote((string) $account['currency']).', l.amount, 0)';
        $join = (bool) $account['in_base'] ? '' : ' JOIN journal_entry e ON e.id = l.entry_id';
        $until = Day::latest($today, $payDate);
        $ledger = $this->db->fetchAssociative("SELECT COALESCE(SUM(IF(l.posting_date <= :today, $moved, 0)), 0) AS balance, COALESCE(SUM(IF(l.posting_date > :today, $moved, 0)), 0) AS later FROM journal_line l$join WHERE l.account_id = :account AND l.posting_date <= :until", ['today' => $today->iso(), 'until' => $until->iso(), 'account' => $account['account_id']]) ?: [];
        $runs = $this->db->fetchAssociative(
            "SELECT COALESCE(SUM(l.pay), 0) AS pay, COUNT(DISTINCT p.id) AS n FROM proposal p JOIN proposal_line l ON l.proposal_id = p.id AND l.is_in = 1 AND l.dropped = 0 LEFT JOIN proposal_payment y ON y.proposal_id = p.id AND y.payment = l.payment
             WHERE p.company_id = ? AND p.bank_account_id = ? AND p.id <> ? AND p.state IN ('review', 'refused', 'approved', 'printed', 'posting') AND p.pay_date <= ? AND y.document_id IS NULL", [$companyId, $account['id'], $except, $until->iso()]) ?: [];
        $balance = (int) ($ledger['balance'] ?? 0);
        $later = (int) ($ledger['later'] ?? 0);

        return ['id' => (int) $account['id'], 'code' => (string) $account['code'], 'name' => (string) $account['name'], 'currency' => (string) $account['currency'], 'iban' => (string) $account['iban'], 'balance' => $balance, 'later' => $later, 'runs' => (int) ($runs['pay'] ?? 0), 'count' => (int) ($runs['n'] ?? 0), 'expected' => $balance + $later - (int) ($runs['pay'] ?? 0)];
    }
}
