<?php

declare(strict_types=1);

namespace Nelbix\App\Close\Period;

use Doctrine\DBAL\Connection;
use Nelbix\App\Books\OpenAsOf;
use Nelbix\App\Ledger\Chart;
use Nelbix\App\Payables\ProposalState;
use Nelbix\Core\Calendar\Day;

/** How much of what stands in the way of closing a period there is. */
final readonly class ClosingCounts
{
    public function __construct(private Connection $db)
    {
    }

    /** @return array<string, array{int, ?int}> count and amount by gate, in one question */
    public function of(int $companyId, string $base, Day $last): array
    {
        $day = OpenAsOf::replayed();
        [$open, $join, $where] = [$day->open('_base'), $day->join(), $day->where()];
        $role = static fn (string $like): string => "a.role LIKE '$like'";
        $items = static fn (string $key, string $which): string => <<<SQL
        SELECT '$key', COUNT(*), SUM(ABS($open))
        FROM open_item i
        JOIN account a ON a.id = i.account_id
        $join
        WHERE i.company_id = :company AND $where AND $which
        SQL;
        $unapplied = static fn (
            string $role,
        ): string => "$role AND i.kind IN ('receipt', 'payment', 'hand_over', 'from_prepayment')";
        $monetary = Chart::controls();
        $unpaid = ProposalState::unpaid();
        $rows = $this->db->fetchAllNumeric(
            <<<SQL
            SELECT CONCAT('batches_', side), COUNT(*), NULL FROM batch
            WHERE company_id = :company AND posted_at IS NULL AND posting_date <= :day
            GROUP BY side
            UNION ALL
            SELECT CONCAT('drafts_', side), COUNT(*), SUM(IF(currency = :base, total, total_base)) FROM document
            WHERE company_id = :company AND state = 'draft' AND COALESCE(posting_date, document_date, DATE(created_at)) <= :day
            GROUP BY side
            UNION ALL
            SELECT 'lots', COUNT(*), NULL FROM posting_lot WHERE company_id = :company AND ended_at IS NULL
            UNION ALL
            SELECT 'journal', COUNT(*), SUM(amount) FROM manual_entry
            WHERE company_id = :company AND state IN ('draft', 'waiting') AND day <= :day
            UNION ALL
            SELECT CONCAT('recurring_', side), COUNT(*), NULL FROM recurring
            WHERE company_id = :company AND stopped = 0 AND next_on <= :day
            GROUP BY side
            UNION ALL
            SELECT 'entries', COUNT(*), SUM(amount) FROM manual_entry
            WHERE company_id = :company AND next_on <= :day AND state = 'recurring'
            UNION ALL
            SELECT 'goods', COUNT(*), SUM(open_base) FROM delivery
            WHERE company_id = :company AND is_open = 1 AND delivered_on <= :day AND reversed_on IS NULL
            UNION ALL
            SELECT CONCAT('held_', side), COUNT(*), SUM(total_base) FROM document
            WHERE company_id = :company AND held_reason IS NOT NULL AND state = 'posted' AND posting_date <= :day
            GROUP BY side
            UNION ALL
            SELECT 'runs', COUNT(*), NULL FROM proposal
            WHERE company_id = :company AND state IN ($unpaid) AND pay_date <= :day
            UNION ALL
            {$items('refunds', $role('refunds_payable'))}
            UNION ALL
            {$items('unidentified', $role('unidentified_receipts'))}
            UNION ALL
            {$items('unapplied_payables', $unapplied("a.role = 'payables'"))}
            UNION ALL
            {$items('unapplied_receivables', $unapplied("a.role = 'receivables'"))}
            UNION ALL
            SELECT 'claims', COUNT(*), SUM(i.open_base) FROM claim c JOIN open_item i ON i.id = c.item_id
            WHERE c.company_id = :company AND c.person_id IS NULL AND i.is_open = 1 AND i.posting_date <= :day
            UNION ALL
            SELECT 'statements', COUNT(*), NULL FROM bank_account b
            WHERE b.company_id = :company AND EXISTS (SELECT 1 FROM bank_statement s WHERE s.bank_account_id = b.id)
                AND NOT EXISTS (SELECT 1 FROM reconciliation r
                    WHERE r.bank_account_id = b.id AND r.as_of >= :day AND r.withdrawn_at IS NULL)
            UNION ALL
            SELECT 'lines', COUNT(*), NULL FROM statement_line WHERE company_id = :company AND waiting <> 0 AND day <= :day
            UNION ALL
            SELECT 'pairs', COUNT(*), NULL FROM pairing_row r JOIN pairing_set s ON s.id = r.set_id
            WHERE s.company_id = :company AND s.retired = 0 AND r.pair_id IS NULL AND r.dated <= :day
            UNION ALL
            {$items(
                'revaluation',
                "i.currency <> :base AND a.role IN ($monetary) AND a.role NOT IN ('vendor_prepayments', 'customer_prepayments')
                AND NOT EXISTS (SELECT 1 FROM revaluation v JOIN revaluation_item w ON w.revaluation_id = v.id
                    WHERE v.company_id = i.company_id AND v.as_of = :day AND v.live = 1 AND w.item_id = i.id)",
            )}
            SQL
            ,
            [
                'company' => $companyId,
                'base' => $base,
                'day' => $last->iso(),
            ],
        );
        $counts = [];
        foreach ($rows as [$key, $count, $amount]) {
            $counts[(string) $key] = [(int) $count, null === $amount ? null : (int) $amount];
        }

        return $counts;
    }
}
