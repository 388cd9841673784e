<?php

declare(strict_types=1);

namespace Nelbix\App\Payables;

use Doctrine\DBAL\Connection;
use Nelbix\App\Bank\BankRow;
use Nelbix\App\Ledger\Rates;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Ledger\InvoiceEntry;
use Nelbix\Core\Refused;

/**
 * What a bank account is expected to hold on a pay date, in its own currency: its ledger today, what is posted for the days until
 * then, less what other open runs will take.
 *
 * @phpstan-type Outlook array{id: int, code: string, name: string, currency: string, iban: string, base: string, balance: int,
 *     later: int, runs: int, count: int, uncounted: int, expected: int}
 */
final readonly class BankOutlook
{
    public function __construct(private Connection $db, private Rates $rates)
    {
    }

    /**
     * @param string $base the company's base currency
     * @param int $except the run that is looked at
     *
     * @return Outlook
     */
    public function of(int $companyId, BankRow $bank, string $base, Day $today, Day $payDate, int $except = 0): array
    {
        // an account in a foreign currency counts what moved in that currency
        $inBase = $bank->currency === $base;
        $moved = $inBase ? 'l.base' : 'IF(e.currency = '.$this->db->quote($bank->currency).', l.amount, 0)';
        $join = $inBase ? '' : ' JOIN journal_entry e ON e.id = l.entry_id';
        $until = Day::latest($today, $payDate);
        $ledger =
            $this->db->fetchAssociative(
                <<<SQL
                SELECT COALESCE(SUM(IF(l.posting_date <= :today, $moved, 0)), 0) AS balance,
                    COALESCE(SUM(IF(l.posting_date > :today, $moved, 0)), 0) AS later
                FROM journal_line l$join
                WHERE l.account_id = :account AND l.posting_date <= :until
                SQL
                ,
                ['today' => $today->iso(), 'until' => $until->iso(), 'account' => $bank->accountId],
            ) ?:
            [];
        $outlook = [
            'id' => $bank->id,
            'code' => $bank->code,
            'name' => $bank->name,
            'currency' => $bank->currency,
            'iban' => $bank->iban,
            'base' => $base,
            'balance' => (int) ($ledger['balance'] ?? 0),
            'later' => (int) ($ledger['later'] ?? 0),
            'runs' => 0,
            'count' => 0,
            'uncounted' => 0,
            'expected' => 0,
        ];
        $unpaid = ProposalState::unpaid();
        foreach (
            $this->db->fetchAllAssociative(
                <<<SQL
                SELECT i.currency, SUM(l.pay) AS pay, COUNT(DISTINCT p.id) AS n
                FROM proposal p
                JOIN proposal_line l ON l.proposal_id = p.id AND l.is_in = 1 AND l.dropped = 0
                JOIN open_item i ON i.id = l.item_id
                LEFT JOIN proposal_payment y ON y.proposal_id = p.id AND y.payment = l.payment
                WHERE p.company_id = ? AND p.bank_account_id = ? AND p.id <> ?
                    AND p.state IN ($unpaid) AND p.pay_date <= ?
                    AND y.document_id IS NULL
                GROUP BY i.currency
                SQL
                ,
                [$companyId, $bank->id, $except, $until->iso()],
            ) as $r
        ) {
            $pay = $this->taken($companyId, $outlook, (int) $r['pay'], (string) $r['currency'], $until);
            $outlook[null === $pay ? 'uncounted' : 'count'] += (int) $r['n'];
            $outlook['runs'] += (int) $pay;
        }
        $outlook['expected'] = $outlook['balance'] + $outlook['later'] - $outlook['runs'];

        return $outlook;
    }

    /**
     * What a payment in some currency takes from the account, in the account's own.
     *
     * @param Outlook $account
     *
     * @return int|null minor units of the account's currency; null when no rate of the company's books says it
     */
    public function taken(int $companyId, array $account, int $amount, string $currency, Day $day): ?int
    {
        if ($currency === $account['currency'] || $account['currency'] !== $account['base']) {
            return $currency === $account['currency'] ? $amount : null;
        }
        try {
            return InvoiceEntry::base(
                $amount,
                $currency,
                $account['base'],
                $this->rates->on($companyId, $currency, $account['base'], $day),
            );
        } catch (Refused) {
            return null;
        }
    }
}
