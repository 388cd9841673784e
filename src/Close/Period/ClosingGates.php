<?php

declare(strict_types=1);

namespace Nelbix\App\Close\Period;

use Doctrine\DBAL\Connection;
use Nelbix\App\Books\OpenAsOf;
use Nelbix\App\Close\Revaluation\ProposeRevaluation;
use Nelbix\App\Close\TieOut\SignOffs;
use Nelbix\App\Close\TieOut\TieOutQuery;
use Nelbix\App\Ledger\Chart;
use Nelbix\App\Platform\Permission;
use Nelbix\App\Platform\Words;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Ledger\Side;
use Nelbix\Core\Refused;

/** What stands in the way of closing a period, gate by gate in the order in which they are closed. */
final readonly class ClosingGates
{
    /**
     * Key => what stands there, what is said when nothing does, where it is mended, and what one needs to go there. A key with %s stands
     * once for each side, as its words do.
     */
    private const GATES = [
        'batches_%s' => ['%s batches are open', 'every %s batch is posted', 'batches', Permission::SeeLedger, []],
        'drafts_%s' => [
            '%s drafts are left',
            'no %s draft is left',
            'documents',
            Permission::SeeLedger,
            ['state' => 'draft'],
        ],
        'recurring_%s' => [
            'recurring %s drafts are not made',
            'every recurring %s draft is made',
            'recurring',
            Permission::SeeLedger,
            [],
        ],
        'journal' => [
            'manual entries are not posted',
            'every manual entry is posted',
            'journal',
            Permission::SeeLedger,
            [],
        ],
        'entries' => [
            'recurring entries are not made',
            'every recurring entry is made',
            'journal',
            Permission::SeeLedger,
            [
                'show' => 'recurring',
            ],
        ],
        'goods' => [
            'deliveries are not invoiced',
            'every delivery is invoiced',
            'not_invoiced',
            Permission::SeeDeliveries,
            [],
        ],
        'held_%s' => [
            '%s documents are held',
            'no %s document is held',
            'documents',
            Permission::SeeLedger,
            ['state' => 'held'],
        ],
        'runs' => ['payment runs are not posted', 'every run is posted', 'proposals', Permission::SeePayables, []],
        'refunds' => [
            'refunds are on the way',
            'no refund is on its way',
            'items',
            Permission::SeePayables,
            ['side' => 'payables'],
        ],
        'unapplied_%s' => [
            'unapplied %s sums wait for a place',
            'all %s money is placed',
            'items',
            Permission::SeeLedger,
            [
                'only' => 'unapplied',
            ],
        ],
        'unidentified' => [
            'receipts are unidentified',
            'every payer is known',
            'items',
            Permission::SeeReceivables,
            [
                'side' => 'receivables',
                'only' => 'unidentified',
            ],
        ],
        'claims' => [
            'claims are without a person',
            'every claim has a person',
            'claims',
            Permission::SeeReceivables,
            [],
        ],
        'statements' => [
            'bank accounts are not reconciled',
            'every bank account is reconciled',
            'bank',
            Permission::SeeLedger,
            [],
        ],
        'lines' => [
            'bank lines are without a place',
            'every bank line has its place',
            'bank',
            Permission::SeeLedger,
            [],
        ],
        'pairs' => [
            'rows are left over in pairing sets',
            'nothing is left over in pairing sets',
            'pairing',
            Permission::SeeLedger,
            [],
        ],
        'revaluation' => [
            'foreign items are not revalued',
            'nothing is left to revalue',
            'revaluation',
            Permission::SeeLedger,
            [],
        ],
        'tie_out' => ['control accounts are off', 'every control account ties', 'tie_out', Permission::SeeLedger, []],
        'signed' => [
            'control accounts are not signed off',
            'every control account is signed off',
            'tie_out',
            Permission::SeeLedger,
            [],
        ],
        'gaps' => ['numbers are missing', 'no number is missing', 'number_gaps', Permission::SeeLedger, []],
    ];

    /** Their pages show things as of a day. */
    private const AS_OF = ['tie_out', 'revaluation', 'items', 'not_invoiced'];

    public function __construct(
        private Connection $db,
        private TieOutQuery $tieOut,
        private SignOffs $signOffs,
        private NumberGaps $gaps,
        private ProposeRevaluation $revaluation,
    ) {
    }

    /** @return list<ClosingGate> all of them; those with a count of zero are through */
    public function of(int $companyId, string $base, int $year, Day $last): array
    {
        $found = [...$this->counted($companyId, $base, $last), ...$this->tied($companyId, $last)];
        $found['gaps'] = [array_sum(array_column($this->gaps->of($companyId, $year), 'missing')), null];
        if (($found['revaluation'][0] ?? 0) > 0 && !$this->differs($companyId, $base, $last)) {
            $found['revaluation'] = [0, null];
        }
        $gates = [];
        foreach (self::GATES as $key => [$text, $clear, $route, $sees, $parameters]) {
            $parameters += \in_array($route, self::AS_OF, true) ? ['as_of' => $last->iso()] : [];
            $parameters += 'gaps' === $key ? ['year' => (string) $year] : [];
            foreach (str_contains($key, '%s') ? Side::cases() : [null] as $side) {
                $word = $side?->partyWord() ?? '';
                [$count, $amount] = $found[\sprintf($key, $side->value ?? '')] ?? [0, null];
                $gates[] = new ClosingGate(
                    \sprintf($key, $side->value ?? ''),
                    Words::agree($count, \sprintf($text, $word)),
                    \sprintf($clear, $word),
                    $count,
                    $amount,
                    $route,
                    null === $side ? $sees : Permission::see($side),
                    null === $side ? $parameters : ['side' => $side->value, ...$parameters],
                );
            }
        }

        return $gates;
    }

    /** Whether a revaluation would post anything, or lacks a rate: items whose rate has not changed stand in nobody's way. */
    private function differs(int $companyId, string $base, Day $last): bool
    {
        try {
            $proposed = $this->revaluation->of($companyId, $base, $last);
        } catch (Refused) {
            return true;
        }

        return [] !== $proposed->missing || !$proposed->entry->isEmpty();
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
        $unapplied = static fn (
            string $role,
        ): string => "$role AND i.kind IN ('receipt', 'payment', 'hand_over', 'from_prepayment')";
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
            WHERE company_id = :company AND state IN ('review', 'approved', 'printed', 'posting') AND pay_date <= :day
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
