<?php

declare(strict_types=1);

namespace Nelbix\App\Close\Outlook;

use Doctrine\DBAL\Connection;
use Nelbix\Core\Aging\Lateness;
use Nelbix\Core\Calendar\Day;

/** How late each customer paid in the last year, by what came in money; and what it promised. */
final readonly class Habits
{
    private const YEAR = 365;

    public function __construct(private Connection $db)
    {
    }

    /** @return array<int, Lateness> by customer; under 0 that of all together, which stands in for a customer of few payments */
    public function of(int $companyId, Day $today): array
    {
        $rows = $this->db->iterateNumeric(
            <<<'SQL'
            SELECT i.party_id, DATEDIFF(s.settled_on, i.due_date) AS late, SUM(l.applied_base), COUNT(*)
            FROM settlement s
            JOIN document d ON d.id = s.document_id AND d.kind = 'receipt'
            JOIN settlement_line l ON l.settlement_id = s.id
            JOIN open_item i ON i.id = l.item_id AND i.kind IN ('invoice', 'debit_note', 'finance_charge') AND l.applied_base > 0
            WHERE s.company_id = ? AND s.side = 'receivables' AND s.settled_on BETWEEN ? AND ? AND s.undone_on IS NULL
            GROUP BY i.party_id, late
            ORDER BY i.party_id
            SQL
            ,
            [$companyId, $today->plusDays(-self::YEAR)->iso(), $today->iso()],
        );
        $found = [];
        $all = $one = [];
        $allPayments = $payments = $before = 0;
        foreach ($rows as [$party, $late, $amount, $count]) {
            if ((int) $party !== $before) {
                $found[$before] = Lateness::of($one, $payments);
                [$before, $one, $payments] = [(int) $party, [], 0];
            }
            $one[(int) $late] = (int) $amount;
            $all[(int) $late] = ($all[(int) $late] ?? 0) + (int) $amount;
            $payments += (int) $count;
            $allPayments += (int) $count;
        }
        $found[$before] = Lateness::of($one, $payments);

        return [0 => Lateness::of($all, $allPayments) ?? new Lateness(0, 0, 0, 0)] + array_filter($found);
    }

    /** @return array<int, Day> the day until which a customer promised to pay, from the day on, by customer */
    public function promises(int $companyId, Day $today): array
    {
        return array_map(
            static fn (mixed $day): Day => Day::of((string) $day),
            $this->db->fetchAllKeyValue(
                <<<'SQL'
                SELECT party_id, MAX(until_on)
                FROM promise
                WHERE company_id = ? AND until_on >= ? AND taken_back_at IS NULL
                GROUP BY party_id
                SQL
                ,
                [$companyId, $today->iso()],
            ),
        );
    }
}
