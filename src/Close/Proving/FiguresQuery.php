<?php

declare(strict_types=1);

namespace Nelbix\App\Close\Proving;

use Doctrine\DBAL\Connection;
use Nelbix\Core\Calendar\Day;

/** What a controller asks for of a span of days: how long payment took, what discounts came to, which look-alikes were let through. */
final readonly class FiguresQuery
{
    /** So many parties or documents stand on a page. */
    public const MOST = 500;

    public function __construct(private Connection $db)
    {
    }

    /**
     * Days from the date of an invoice to its settlement, and days over, each weighed by what was settled.
     *
     * @return list<array{party_id: int, party: string, name: string, settled: int, days: string, late: string, documents: int}> the largest
     *                                                                                                                           first
     */
    public function daysToPay(int $companyId, string $side, Day $from, Day $to): array
    {
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
                <<<'SQL'
                SELECT p.id AS party_id, p.code AS party, p.name, SUM(l.applied_base) AS settled,
                    ROUND(SUM(l.applied_base * DATEDIFF(s.settled_on, i.document_date)) / SUM(l.applied_base), 1) AS days,
                    ROUND(SUM(l.applied_base * GREATEST(0, DATEDIFF(s.settled_on, i.due_date))) / SUM(l.applied_base), 1) AS late,
                    COUNT(DISTINCT i.document_id) AS documents
                FROM settlement s
                JOIN settlement_line l ON l.settlement_id = s.id
                JOIN open_item i ON i.id = l.item_id AND i.kind IN ('invoice', 'finance_charge') AND l.applied_base > 0
                JOIN party p ON p.id = i.party_id
                WHERE s.company_id = :company AND s.side = :side AND s.settled_on BETWEEN :from AND :to
                    AND (s.undone_on IS NULL OR s.undone_on > :to)
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
     * Discounts by party: what was taken, and what lapsed: the last step of an item ended in the span, and no discount was taken on it.
     *
     * @return list<array{party_id: int, party: string, name: string, taken: int, missed: int, documents: int}>
     */
    public function discounts(int $companyId, string $side, Day $from, Day $to): array
    {
        return array_map(
            static fn (array $r): array => [
                'party_id' => (int) $r['party_id'],
                'party' => (string) $r['party'],
                'name' => (string) $r['name'],
                'taken' => (int) $r['taken'],
                'missed' => (int) $r['missed'],
                'documents' => (int) $r['documents'],
            ],
            $this->db->fetchAllAssociative(
                <<<'SQL'
                SELECT p.id AS party_id, p.code AS party, p.name, SUM(x.taken) AS taken, SUM(x.missed) AS missed,
                    COUNT(DISTINCT x.document_id) AS documents
                FROM (
                    SELECT i.party_id, i.document_id, ABS(a.amount_base) AS taken, 0 AS missed
                    FROM settlement s
                    JOIN settlement_adjustment a ON a.settlement_id = s.id AND a.kind IN ('discount', 'late_discount')
                    JOIN open_item i ON i.id = a.item_id
                    WHERE s.company_id = :company AND s.side = :side AND s.settled_on BETWEEN :from AND :to
                        AND (s.undone_on IS NULL OR s.undone_on > :to)
                    UNION ALL
                    SELECT i.party_id, i.document_id, 0, ROUND(y.amount * i.original_base / NULLIF(i.original, 0))
                    FROM open_item i
                    JOIN (SELECT item_id, MAX(through) AS through FROM item_discount GROUP BY item_id) z ON z.item_id = i.id
                    JOIN item_discount y ON y.item_id = i.id AND y.through = z.through
                    WHERE i.company_id = :company AND i.side = :side AND z.through BETWEEN :from AND :to AND z.through < :to
                        AND NOT EXISTS (SELECT 1 FROM settlement_adjustment b JOIN settlement t ON t.id = b.settlement_id
                            WHERE b.item_id = i.id AND b.kind IN ('discount', 'late_discount') AND t.undone_on IS NULL)
                        AND NOT EXISTS (SELECT 1 FROM document v WHERE v.id = i.document_id AND v.reversed_by_id IS NOT NULL)
                ) x
                JOIN party p ON p.id = x.party_id
                GROUP BY p.id, p.code, p.name
                ORDER BY missed DESC, taken DESC, p.code
                LIMIT 500
                SQL
                ,
                ['company' => $companyId, 'side' => $side, 'from' => $from->iso(), 'to' => $to->iso()],
            ),
        );
    }

    /** @return list<array<string, mixed>> the documents of a party behind its figures: when they were settled, with what discount */
    public function documents(int $companyId, string $side, int $partyId, Day $from, Day $to): array
    {
        return $this->db->fetchAllAssociative(
            <<<'SQL'
            SELECT d.id, d.number, i.document_date, i.due_date, MAX(s.settled_on) AS settled_on, SUM(l.applied_base) AS settled,
                ROUND(SUM(l.applied_base * DATEDIFF(s.settled_on, i.document_date)) / SUM(l.applied_base), 1) AS days,
                COALESCE((SELECT SUM(ABS(a.amount_base)) FROM settlement_adjustment a JOIN settlement t ON t.id = a.settlement_id
                    WHERE a.item_id = i.id AND a.kind IN ('discount', 'late_discount') AND t.settled_on BETWEEN :from AND :to
                        AND (t.undone_on IS NULL OR t.undone_on > :to)), 0) AS discount
            FROM settlement s
            JOIN settlement_line l ON l.settlement_id = s.id
            JOIN open_item i ON i.id = l.item_id AND i.kind IN ('invoice', 'finance_charge') AND l.applied_base > 0
            JOIN document d ON d.id = i.document_id
            WHERE s.company_id = :company AND s.side = :side AND s.party_id = :party AND s.settled_on BETWEEN :from AND :to
                AND (s.undone_on IS NULL OR s.undone_on > :to)
            GROUP BY d.id, d.number, i.id, i.document_date, i.due_date
            ORDER BY settled_on DESC, i.id DESC
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
