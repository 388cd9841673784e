<?php

declare(strict_types=1);

namespace Nelbix\App\Close\Outlook;

use Doctrine\DBAL\Connection;
use Nelbix\App\Payables\ProposalState;
use Nelbix\Core\Aging\CashFlow;
use Nelbix\Core\Calendar\Day;

/** Money at the bank, money on hand, and what runs will take that are planned and not posted. */
final readonly class RunningMoney
{
    public function __construct(private Connection $db)
    {
    }

    /** @return list<array{id: int, number: string, name: string, balance: int}> bank accounts' ledger, in the base currency */
    public function balances(int $companyId, Day $today): array
    {
        return array_map(
            static fn (array $r): array => [
                'id' => (int) $r['id'],
                'number' => (string) $r['number'],
                'name' => (string) $r['name'],
                'balance' => (int) $r['balance'],
            ],
            $this->db->fetchAllAssociative(
                <<<'SQL'
                SELECT a.id, a.number, a.name, COALESCE(SUM(l.base), 0) AS balance
                FROM account a
                LEFT JOIN journal_line l ON l.account_id = a.id AND l.posting_date <= :day
                WHERE a.company_id = :company AND a.id IN (SELECT account_id FROM bank_account WHERE company_id = :company)
                GROUP BY a.id, a.number, a.name
                ORDER BY a.number
                SQL
                ,
                ['company' => $companyId, 'day' => $today->iso()],
            ),
        );
    }

    /** @return iterable<Expected> what is posted to bank accounts for days to come, and what is on hand */
    public function posted(int $companyId, Day $today): iterable
    {
        foreach (
            $this->db->iterateAssociative(
                <<<'SQL'
                SELECT 'posted' AS kind, a.id, a.number, a.name, l.posting_date AS day, SUM(l.base) AS amount
                FROM account a
                JOIN journal_line l ON l.account_id = a.id AND l.posting_date > :day
                WHERE a.company_id = :company AND a.id IN (SELECT account_id FROM bank_account WHERE company_id = :company)
                GROUP BY a.id, a.number, a.name, l.posting_date
                UNION ALL
                SELECT 'on_hand', a.id, a.number, a.name, :day, SUM(l.base)
                FROM account a
                JOIN journal_line l ON l.account_id = a.id AND l.posting_date <= :day
                WHERE a.company_id = :company AND a.role = 'money_on_hand'
                GROUP BY a.id, a.number, a.name
                SQL
                ,
                ['company' => $companyId, 'day' => $today->iso()],
            ) as $r
        ) {
            if (0 !== (int) $r['amount']) {
                yield new Expected(
                    new CashFlow((string) $r['kind'], (int) $r['amount'], Day::of((string) $r['day'])),
                    'account',
                    (int) $r['id'],
                    $r['number'].' '.$r['name'],
                    why: 'posted' === $r['kind'] ? 'posted for that day' : 'on hand, not deposited',
                );
            }
        }
    }

    /** @return list<PlannedRun> runs that have not paid */
    public function runs(int $companyId): array
    {
        $states = ProposalState::unpaid();

        return array_map(
            static fn (array $r): PlannedRun => new PlannedRun(
                (int) $r['id'],
                (string) $r['number'],
                Day::of((string) $r['pay_date']),
                (int) $r['amount'],
                (string) $r['state'],
            ),
            $this->db->fetchAllAssociative(
                <<<SQL
                SELECT p.id, p.number, p.pay_date, p.state, SUM(ROUND(CAST(l.pay AS DECIMAL(30)) * i.original_base / i.original)) AS amount
                FROM proposal p
                JOIN proposal_line l ON l.proposal_id = p.id AND l.is_in = 1 AND l.dropped = 0
                JOIN open_item i ON i.id = l.item_id
                LEFT JOIN proposal_payment y ON y.proposal_id = p.id AND y.payment = l.payment
                WHERE p.company_id = ? AND p.state IN ($states) AND y.document_id IS NULL
                GROUP BY p.id, p.number, p.pay_date, p.state
                ORDER BY p.pay_date, p.id
                SQL
                ,
                [$companyId],
            ),
        );
    }
}
