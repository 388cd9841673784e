<?php

declare(strict_types=1);

namespace Nelbix\App\Close\Proving;

use Doctrine\DBAL\ArrayParameterType;
use Doctrine\DBAL\Connection;
use Nelbix\Core\Calendar\Day;

/** What a controller asks for of a span of days: how long payment took, what discounts came to, which look-alikes were let through. */
final readonly class FiguresQuery
{
    /** So many parties or documents stand on a page. */
    public const MOST = 500;

    public function __construct(private Connection $db, private LapsedDiscounts $lapsed)
    {
    }

    /**
     * A row for each part of an invoice that money settled in the span: not credits, not what was set off. By the day of the money.
     * Source: rules.md, Figures over a span.
     */
    private const PAID = <<<'SQL'
    SELECT i.id AS item_id, i.party_id, i.document_id, i.document_date, i.due_date,
        IF(k.kind IN ('hand_over', 'to_prepayment', 'from_prepayment'), k.document_date, k.posting_date) AS paid_on,
        l.applied_base * ABS(m.applied) / (
            SELECT SUM(ABS(n.applied)) FROM settlement_line n WHERE n.settlement_id = s.id AND SIGN(n.applied) <> SIGN(l.applied)
        ) AS part
    FROM settlement s
    JOIN settlement_line l ON l.settlement_id = s.id AND l.applied_base > 0
    JOIN open_item i ON i.id = l.item_id AND i.kind IN ('invoice', 'finance_charge')
    JOIN settlement_line m ON m.settlement_id = s.id AND m.applied < 0
    JOIN open_item k ON k.id = m.item_id
        AND k.kind IN ('receipt', 'payment', 'prepayment', 'hand_over', 'to_prepayment', 'from_prepayment')
    WHERE s.company_id = :company AND s.side = :side AND s.settled_on BETWEEN :from AND :to
        AND (s.undone_on IS NULL OR s.undone_on > :to)
    SQL;

    /**
     * Days from the date of an invoice to the money that settled it, and days over, each weighed by what it settled.
     *
     * @return list<array{party_id: int, party: string, name: string, settled: int, days: string, late: string, documents: int}> the largest
     *                                                                                                                           first
     */
    public function daysToPay(int $companyId, string $side, Day $from, Day $to): array
    {
        $paid = self::PAID;

        return array_map(
            static fn (array $r): array => [
                'party_id' => (int) $r['party_id'],
                'party' => (string) $r['party'],
                'name' => (string) $r['name'],
                'settled' => (int) $r['settled'],
                'days' => (string) $r['days'],
                'late' => (string) $r['late'],
                'documents' => (int) $r['documents'],
            ],
            $this->db->fetchAllAssociative(
                <<<SQL
                SELECT p.id AS party_id, p.code AS party, p.name, ROUND(SUM(x.part)) AS settled,
                    ROUND(SUM(x.part * DATEDIFF(x.paid_on, x.document_date)) / SUM(x.part), 1) AS days,
                    ROUND(SUM(x.part * GREATEST(0, DATEDIFF(x.paid_on, x.due_date))) / SUM(x.part), 1) AS late,
                    COUNT(DISTINCT x.document_id) AS documents
                FROM ($paid) x
                JOIN party p ON p.id = x.party_id
                GROUP BY p.id, p.code, p.name
                ORDER BY settled DESC, p.code
                LIMIT 500
                SQL
                ,
                ['company' => $companyId, 'side' => $side, 'from' => $from->iso(), 'to' => $to->iso()],
            ),
        );
    }

    /**
     * Discounts by party: what was taken in the span, and what lapsed in it.
     *
     * @return list<array{party_id: int, party: string, name: string, taken: int, missed: int, documents: int}>
     */
    public function discounts(int $companyId, string $side, Day $from, Day $to): array
    {
        $of = [];
        $documents = [];
        foreach ($this->taken($companyId, $side, $from, $to) as [$party, $document, $taken]) {
            $of[$party] = ['taken' => ($of[$party]['taken'] ?? 0) + $taken, 'missed' => 0];
            $documents[$party][$document] = true;
        }
        foreach ($this->lapsed->of($companyId, $side, $from, $to) as $lapse) {
            $of[$lapse['party']] ??= ['taken' => 0, 'missed' => 0];
            $of[$lapse['party']]['missed'] += $lapse['amount'];
            $documents[$lapse['party']][$lapse['document']] = true;
        }
        $names =
            [] === $of
                ? []
                : $this->db->fetchAllAssociativeIndexed(
                    'SELECT id, code, name FROM party WHERE id IN (?)',
                    [array_keys($of)],
                    [ArrayParameterType::INTEGER],
                );
        $rows = array_map(
            static fn (int $party): array => [
                'party_id' => $party,
                'party' => (string) $names[$party]['code'],
                'name' => (string) $names[$party]['name'],
                ...$of[$party],
                'documents' => \count($documents[$party]),
            ],
            array_keys($of),
        );
        usort(
            $rows,
            static fn (array $a, array $b): int => [$b['missed'], $b['taken'], $a['party']] <=> [
                $a['missed'],
                $a['taken'],
                $b['party'],
            ],
        );

        return \array_slice($rows, 0, self::MOST);
    }

    /** @return iterable<array{int, int, int}> party, document and what was taken on it, base minor units */
    private function taken(int $companyId, string $side, Day $from, Day $to): iterable
    {
        foreach (
            $this->db->iterateNumeric(
                <<<'SQL'
                SELECT i.party_id, i.document_id, SUM(ABS(a.amount_base))
                FROM settlement s
                JOIN settlement_adjustment a ON a.settlement_id = s.id AND a.kind IN ('discount', 'late_discount')
                JOIN open_item i ON i.id = a.item_id
                WHERE s.company_id = :company AND s.side = :side AND s.settled_on BETWEEN :from AND :to
                    AND (s.undone_on IS NULL OR s.undone_on > :to)
                GROUP BY i.party_id, i.document_id
                SQL
                ,
                ['company' => $companyId, 'side' => $side, 'from' => $from->iso(), 'to' => $to->iso()],
            ) as [$party, $document, $taken]
        ) {
            yield [(int) $party, (int) $document, (int) $taken];
        }
    }

    /** @return list<array<string, mixed>> the documents of a party behind its figures: when money settled them, with what discount */
    public function documents(int $companyId, string $side, int $partyId, Day $from, Day $to): array
    {
        $paid = self::PAID;

        return $this->db->fetchAllAssociative(
            <<<SQL
            SELECT d.id, d.number, x.document_date, x.due_date, MAX(x.paid_on) AS settled_on, ROUND(SUM(x.part)) AS settled,
                ROUND(SUM(x.part * DATEDIFF(x.paid_on, x.document_date)) / SUM(x.part), 1) AS days,
                COALESCE(MAX(t.discount), 0) AS discount
            FROM ($paid AND s.party_id = :party) x
            LEFT JOIN (
                SELECT a.item_id, SUM(ABS(a.amount_base)) AS discount
                FROM settlement_adjustment a
                JOIN settlement o ON o.id = a.settlement_id
                WHERE o.company_id = :company AND o.side = :side AND o.party_id = :party
                    AND a.kind IN ('discount', 'late_discount') AND o.settled_on BETWEEN :from AND :to
                    AND (o.undone_on IS NULL OR o.undone_on > :to)
                GROUP BY a.item_id
            ) t ON t.item_id = x.item_id
            JOIN document d ON d.id = x.document_id
            GROUP BY d.id, d.number, x.item_id, x.document_date, x.due_date
            ORDER BY settled_on DESC, x.item_id DESC
            LIMIT 500
            SQL
            ,
            ['company' => $companyId, 'side' => $side, 'party' => $partyId, 'from' => $from->iso(), 'to' => $to->iso()],
        );
    }

    /** @return list<array<string, mixed>> documents that looked like another one and were posted with a reason */
    public function lookAlikes(int $companyId, string $side, Day $from, Day $to): array
    {
        return $this->db->fetchAllAssociative(
            <<<'SQL'
            SELECT d.id, d.number, d.posting_date, d.total_base, d.look_alike_reason AS reason, p.name AS party, u.name AS `by`
            FROM document d
            JOIN party p ON p.id = d.party_id
            JOIN app_user u ON u.id = d.created_by_id
            WHERE d.company_id = ? AND d.side = ? AND d.look_alike_reason <> '' AND d.number IS NOT NULL AND d.posting_date BETWEEN ? AND ?
            ORDER BY d.posting_date DESC, d.id DESC
            LIMIT 500
            SQL
            ,
            [$companyId, $side, $from->iso(), $to->iso()],
        );
    }
}
