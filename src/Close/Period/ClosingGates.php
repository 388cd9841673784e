<?php

declare(strict_types=1);

namespace Nelbix\App\Close\Period;

use Doctrine\DBAL\Connection;
use Nelbix\App\Books\OpenAsOf;
use Nelbix\App\Close\TieOut\SignOffs;
use Nelbix\App\Close\TieOut\TieOutQuery;
use Nelbix\App\Ledger\Chart;
use Nelbix\App\Platform\Words;
use Nelbix\Core\Calendar\Day;

/** What stands in the way of closing a period, gate by gate in the order in which they are closed. */
final readonly class ClosingGates
{
    /** Key => what stands there, what is said when nothing does, where it is mended. */
    private const GATES = [
        'batches_payables' => [
            'vendor batches are open',
            'every vendor batch is posted',
            'batches',
            ['side' => 'payables'],
        ],
        'batches_receivables' => [
            'customer batches are open',
            'every customer batch is posted',
            'batches',
            [
                'side' => 'receivables',
            ],
        ],
        'drafts_payables' => [
            'vendor drafts are left',
            'no vendor draft is left',
            'documents',
            ['side' => 'payables', 'state' => 'draft'],
        ],
        'drafts_receivables' => [
            'customer drafts are left',
            'no customer draft is left',
            'documents',
            [
                'side' => 'receivables',
                'state' => 'draft',
            ],
        ],
        'journal' => ['manual entries are not posted', 'every manual entry is posted', 'journal', ['show' => 'open']],
        'recurring' => [
            'recurring drafts are not made',
            'all that comes again is made',
            'journal',
            [
                'show' => 'recurring',
            ],
        ],
        'goods' => ['deliveries are not invoiced', 'every delivery is invoiced', 'not_invoiced', []],
        'held' => ['invoices are held', 'nothing is held', 'documents', ['side' => 'payables', 'state' => 'held']],
        'runs' => ['payment runs are not posted', 'every run is posted', 'proposals', []],
        'refunds' => ['refunds are on the way', 'no refund is on its way', 'items', ['side' => 'payables']],
        'unapplied' => [
            'unapplied sums wait for a place',
            'all money is placed',
            'items',
            [
                'side' => 'receivables',
                'only' => 'unapplied',
            ],
        ],
        'unidentified' => [
            'receipts are unidentified',
            'every payer is known',
            'items',
            [
                'side' => 'receivables',
                'only' => 'unidentified',
            ],
        ],
        'claims' => ['claims are without a person', 'every claim has a person', 'claims', []],
        'statements' => ['bank accounts are not reconciled', 'every bank account is reconciled', 'bank', []],
        'lines' => ['bank lines are without a place', 'every bank line has its place', 'bank', []],
        'pairs' => ['rows are left over in pairing sets', 'nothing is left over in pairing sets', 'pairing', []],
        'revaluation' => ['foreign items are not revalued', 'nothing is left to revalue', 'revaluation', []],
        'tie_out' => ['control accounts are off', 'every control account ties', 'tie_out', []],
        'signed' => ['control accounts are not signed off', 'every control account is signed off', 'tie_out', []],
        'gaps' => ['numbers are missing', 'no number is missing', 'number_gaps', []],
    ];

    public function __construct(
        private Connection $db,
        private TieOutQuery $tieOut,
        private SignOffs $signOffs,
        private NumberGaps $gaps,
    ) {
    }

    /** @return list<Gate> all of them; those with a count of zero are through */
    public function of(int $companyId, string $base, int $year, Day $last): array
    {
        $found = [...$this->counted($companyId, $base, $last), ...$this->tied($companyId, $last)];
        $found['gaps'] = [array_sum(array_column($this->gaps->of($companyId, $year), 'missing')), null];
        $gates = [];
        foreach (self::GATES as $key => [$text, $clear, $route, $parameters]) {
            [$count, $amount] = $found[$key] ?? [0, null];
            if (\in_array($route, ['tie_out', 'revaluation', 'items'], true)) {
                $parameters['as_of'] = $last->iso();
            }
            $gates[] = new Gate($key, Words::agree($count, $text), $clear, $count, $amount, $route, $parameters);
        }

        return $gates;
    }

    /** @return array<string, array{int, ?int}> */
    private function tied(int $companyId, Day $last): array
    {
        $off = $unsigned = [];
        $signed = $this->signOffs->last($companyId, Day::of('2199-12-31'));
        foreach ($this->tieOut->of($companyId, $last) as $r) {
            if (0 !== $r['tie']->difference()) {
                $off[] = abs($r['tie']->difference());
            }
            if (!isset($signed[$r['id']]) || $signed[$r['id']]->day->isBefore($last)) {
                $unsigned[] = $r['id'];
            }
        }

        return ['tie_out' => [\count($off), array_sum($off)], 'signed' => [\count($unsigned), null]];
    }

    /** @return array<string, array{int, ?int}> count and amount by gate, in one question */
    private function counted(int $companyId, string $base, Day $last): array
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
        $monetary = Chart::controls();
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
            SELECT 'journal', COUNT(*), SUM(amount) FROM manual_entry
            WHERE company_id = :company AND state IN ('draft', 'waiting') AND day <= :day
            UNION ALL
            SELECT 'recurring', (SELECT COUNT(*) FROM recurring WHERE company_id = :company AND stopped = 0 AND next_on <= :day)
                + (SELECT COUNT(*) FROM manual_entry WHERE company_id = :company AND next_on <= :day), NULL
            UNION ALL
            SELECT 'goods', COUNT(*), SUM(open_base) FROM delivery
            WHERE company_id = :company AND is_open = 1 AND delivered_on <= :day AND reversed_on IS NULL
            UNION ALL
            SELECT 'held', COUNT(*), SUM(total_base) FROM document
            WHERE company_id = :company AND held_reason IS NOT NULL AND state = 'posted' AND posting_date <= :day
            UNION ALL
            SELECT 'runs', COUNT(*), NULL FROM proposal
            WHERE company_id = :company AND state IN ('review', 'approved', 'printed', 'posting') AND pay_date <= :day
            UNION ALL
            {$items('refunds', $role('refunds_payable'))}
            UNION ALL
            {$items('unidentified', $role('unidentified_receipts'))}
            UNION ALL
            {$items(
                'unapplied',
                "a.role IN ('payables', 'receivables') AND i.kind IN ('receipt', 'payment', 'hand_over', 'from_prepayment')",
            )}
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
