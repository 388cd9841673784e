<?php

declare(strict_types=1);

namespace Nelbix\App\Today;

use Doctrine\DBAL\Connection;
use Nelbix\Core\Calendar\Day;

/** What waits today, each with count and amount in base currency. One query a line of the page. */
final readonly class TodayQuery
{
    /** How far ahead a discount counts as about to lapse. */
    public const DAYS_AHEAD = 7;

    public function __construct(private Connection $db)
    {
    }

    /** @return array<string, array{count: int, amount: int}> */
    public function of(int $companyId, Day $today, int $userId = 0): array
    {
        $waits = [];
        $lapse =
            $this->db->fetchAssociative(
                <<<'SQL'
                SELECT COUNT(*) AS n, COALESCE(SUM(ROUND(x.amount * (i.open_base / i.original))), 0) AS a
                FROM open_item i
                JOIN item_discount x ON x.item_id = i.id
                WHERE i.company_id = ? AND i.side = 'payables' AND i.open > 0 AND x.through BETWEEN ? AND ?
                SQL
                ,
                [$companyId, $today->iso(), $today->plusDays(self::DAYS_AHEAD)->iso()],
            ) ?:
            [];
        $waits['lapse'] = ['count' => (int) ($lapse['n'] ?? 0), 'amount' => (int) ($lapse['a'] ?? 0)];
        foreach (
            $this->db->fetchAllAssociative(
                <<<SQL
                SELECT side, SUM(open > 0 AND due_date < :day) AS overdue,
                    COALESCE(SUM(IF(open > 0 AND due_date < :day, open_base, 0)), 0) AS overdue_a,
                    SUM(open < 0 AND kind IN ('receipt', 'payment')) AS unapplied,
                    COALESCE(SUM(IF(open < 0 AND kind IN ('receipt', 'payment'), -open_base, 0)), 0) AS unapplied_a
                FROM open_item
                WHERE company_id = :company AND open <> 0
                GROUP BY side
                SQL
                ,
                ['company' => $companyId, 'day' => $today->iso()],
            ) as $r
        ) {
            $waits['overdue_'.$r['side']] = ['count' => (int) $r['overdue'], 'amount' => (int) $r['overdue_a']];
            $waits['unapplied_'.$r['side']] = ['count' => (int) $r['unapplied'], 'amount' => (int) $r['unapplied_a']];
        }
        foreach (
            $this->db->fetchAllAssociative(
                <<<SQL
                SELECT side, state, approval, held_reason IS NOT NULL AS held, COUNT(*) AS n,
                    SUM(IF(state = 'draft', total, total_base)) AS a
                FROM document
                WHERE company_id = ? AND waits = 1
                GROUP BY side, state, approval, held
                SQL
                ,
                [$companyId],
            ) as $r
        ) {
            $keys =
                'draft' === $r['state']
                    ? ['drafts_'.$r['side']]
                    : array_merge(
                        (bool) $r['held'] ? ['held_'.$r['side']] : [],
                        'none' === $r['approval'] || 'approved' === $r['approval']
                            ? []
                            : [$r['approval'].'_'.$r['side']],
                    );
            foreach ($keys as $key) {
                $waits[$key]['count'] = ($waits[$key]['count'] ?? 0) + (int) $r['n'];
                $waits[$key]['amount'] = ($waits[$key]['amount'] ?? 0) + (int) $r['a'];
            }
        }
        foreach (
            $this->db->fetchAllAssociative(
                <<<SQL
                SELECT p.state, COUNT(DISTINCT p.id) AS n, COALESCE(SUM(l.pay), 0) AS a
                FROM proposal p
                LEFT JOIN proposal_line l ON l.proposal_id = p.id AND l.is_in = 1 AND l.dropped = 0
                WHERE p.company_id = ? AND p.state NOT IN ('posted', 'dropped')
                GROUP BY p.state
                SQL
                ,
                [$companyId],
            ) as $r
        ) {
            $waits['proposal_'.$r['state']] = ['count' => (int) $r['n'], 'amount' => (int) $r['a']];
        }
        $goods =
            $this->db->fetchAssociative(
                'SELECT COUNT(*) AS n, COALESCE(SUM(amount_base), 0) AS a FROM delivery WHERE company_id = ? AND reversed_on IS NULL',
                [$companyId],
            ) ?:
            [];
        $waits['deliveries'] = ['count' => (int) ($goods['n'] ?? 0), 'amount' => (int) ($goods['a'] ?? 0)];
        foreach (
            $this->db->fetchAllKeyValue(
                'SELECT side, COUNT(*) FROM recurring WHERE company_id = ? AND stopped = 0 AND next_on <= ? GROUP BY side',
                [$companyId, $today->iso()],
            ) as $side => $n
        ) {
            $waits['recurring_'.$side] = ['count' => (int) $n, 'amount' => 0];
        }
        foreach (
            $this->db->fetchAllAssociative(
                <<<'SQL'
                SELECT b.side, COUNT(DISTINCT b.id) AS n, COALESCE(SUM(d.total), 0) AS a
                FROM batch b
                LEFT JOIN document d ON d.batch_id = b.id
                WHERE b.company_id = ? AND b.posted_at IS NULL
                GROUP BY b.side
                SQL
                ,
                [$companyId],
            ) as $r
        ) {
            $waits['batches_'.$r['side']] = ['count' => (int) $r['n'], 'amount' => (int) $r['a']];
        }
        $tasks =
            $this->db->fetchAssociative(
                <<<'SQL'
                SELECT COUNT(*) AS n, COALESCE(SUM(d.total_base), 0) AS a
                FROM note t
                JOIN document d ON d.id = t.document_id
                WHERE t.company_id = ? AND t.for_user_id = ? AND t.done_at IS NULL
                SQL
                ,
                [$companyId, $userId],
            ) ?:
            [];
        $waits['tasks'] = ['count' => (int) ($tasks['n'] ?? 0), 'amount' => (int) ($tasks['a'] ?? 0)];
        $bank = (int) $this->db->fetchOne(
            <<<SQL
            SELECT COUNT(*)
            FROM party
            WHERE company_id = ? AND side = 'payables' AND (bank_confirmed = 0
                OR EXISTS (SELECT 1 FROM party_bank b WHERE b.party_id = party.id AND b.confirmed = 0))
            SQL
            ,
            [$companyId],
        );
        $waits['bank_details'] = ['count' => $bank, 'amount' => 0];

        return $waits;
    }
}
