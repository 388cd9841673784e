<?php

declare(strict_types=1);

namespace Nelbix\App\Setup;

use Doctrine\DBAL\Connection;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Ledger\Side;

/**
 * A party's balance over a year, what of it was due, and the money that moved: the figures of its drawing. In base currency, minor
 * units, positive for what is owed on its side.
 *
 * @phpstan-type Step array{day: Day, balance: int, due: int}
 * @phpstan-type Drop array{day: Day, amount: int, number: string, id: int, late: int}
 */
final readonly class WaterLine
{
    public const DAYS = 365;

    /** So many payments are drawn, the latest. */
    private const DROPS = 60;

    public function __construct(private Connection $db)
    {
    }

    /**
     * Steps begin with the first day; late is the days after it was due on which the latest of what a payment settled was paid, below
     * zero when before.
     *
     * @return array{from: Day, to: Day, steps: list<Step>, drops: list<Drop>}
     */
    public function of(int $companyId, Side $side, int $partyId, Day $today): array
    {
        $from = $today->plusDays(-self::DAYS);

        return [
            'from' => $from,
            'to' => $today,
            'steps' => $this->steps($companyId, $side, $partyId, $from, $today),
            'drops' => $this->drops($companyId, $side, $partyId, $from, $today),
        ];
    }

    /**
     * What moves the balance on a day moves what is due on the same day, or on the day after the due day when that is later.
     *
     * @return list<Step>
     */
    private function steps(int $companyId, Side $side, int $partyId, Day $from, Day $today): array
    {
        $moves = <<<'SQL'
        SELECT i.posting_date AS day, i.original_base AS base, i.due_date
        FROM open_item i
        WHERE i.company_id = :company AND i.party_id = :party AND i.side = :side
        UNION ALL
        SELECT s.settled_on, -l.applied_base, i.due_date
        FROM open_item i
        JOIN settlement_line l ON l.item_id = i.id
        JOIN settlement s ON s.id = l.settlement_id
        WHERE i.company_id = :company AND i.party_id = :party AND i.side = :side
        UNION ALL
        SELECT s.undone_on, l.applied_base, i.due_date
        FROM open_item i
        JOIN settlement_line l ON l.item_id = i.id
        JOIN settlement s ON s.id = l.settlement_id AND s.undone_on IS NOT NULL
        WHERE i.company_id = :company AND i.party_id = :party AND i.side = :side
        SQL;
        $rows = $this->db->iterateNumeric(
            <<<SQL
            SELECT GREATEST(day, :from) AS at, SUM(base), 0 FROM ($moves) m WHERE day <= :to GROUP BY at
            UNION ALL
            SELECT GREATEST(day, due_date + INTERVAL 1 DAY, :from) AS at, 0, SUM(base) FROM ($moves) m
            WHERE GREATEST(day, due_date + INTERVAL 1 DAY) <= :to GROUP BY at
            ORDER BY at
            SQL
            ,
            [
                'company' => $companyId,
                'party' => $partyId,
                'side' => $side->value,
                'from' => $from->iso(),
                'to' => $today->iso(),
            ],
        );
        $by = [$from->iso() => [0, 0]];
        foreach ($rows as [$day, $balance, $due]) {
            $day = substr((string) $day, 0, 10);
            $by[$day] ??= [0, 0];
            $by[$day][0] += (int) $balance;
            $by[$day][1] += (int) $due;
        }
        ksort($by);
        $steps = [];
        $balance = $due = 0;
        foreach ($by as $day => [$more, $moreDue]) {
            [$balance, $due] = [$balance + $more, $due + $moreDue];
            $steps[] = ['day' => Day::of($day), 'balance' => $balance, 'due' => $due];
        }

        return $steps;
    }

    /** @return list<Drop> */
    private function drops(int $companyId, Side $side, int $partyId, Day $from, Day $today): array
    {
        return array_map(
            static fn (array $r): array => [
                'day' => Day::of((string) $r['posting_date']),
                'amount' => (int) $r['total_base'],
                'number' => (string) $r['number'],
                'id' => (int) $r['id'],
                'late' => (int) $r['late'],
            ],
            array_reverse(
                $this->db->fetchAllAssociative(
                    <<<'SQL'
                    SELECT d.id, d.number, d.posting_date, d.total_base, COALESCE((
                        SELECT MAX(DATEDIFF(d.posting_date, i.due_date))
                        FROM settlement s
                        JOIN settlement_line l ON l.settlement_id = s.id
                        JOIN open_item i ON i.id = l.item_id AND i.original > 0
                        WHERE s.document_id = d.id AND s.undone_on IS NULL
                    ), 0) AS late
                    FROM document d
                    WHERE d.company_id = ? AND d.party_id = ? AND d.side = ? AND d.state = 'posted' AND d.reverses_id IS NULL
                        AND d.kind IN ('payment', 'receipt', 'prepayment') AND d.posting_date BETWEEN ? AND ?
                    ORDER BY d.posting_date DESC, d.id DESC
                    LIMIT
                    SQL
                    .
                        ' '.
                        self::DROPS,
                    [$companyId, $partyId, $side->value, $from->iso(), $today->iso()],
                ),
            ),
        );
    }
}
