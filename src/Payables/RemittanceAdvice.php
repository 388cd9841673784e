<?php

declare(strict_types=1);

namespace Nelbix\App\Payables;

use Doctrine\DBAL\ArrayParameterType;
use Doctrine\DBAL\Connection;

/**
 * What a vendor is told of a payment: its invoices, credits, discounts and what was withheld.
 *
 * @phpstan-type Advice array{d: array<string, mixed>, lines: list<array{number: string, their_number: string, document_date: string,
 *     applied: int, discount: int, withholding: int, paid: int}>, unapplied: int}
 */
final readonly class RemittanceAdvice
{
    public const MOST = 1000;

    public function __construct(private Connection $db)
    {
    }

    /**
     * @param list<int> $ids payments that stand; others are left out
     *
     * @return list<Advice>
     */
    public function of(int $companyId, array $ids): array
    {
        if ([] === $ids) {
            return [];
        }
        $types = [1 => ArrayParameterType::INTEGER];
        $payments = $this->db->fetchAllAssociative(
            <<<SQL
            SELECT d.id, d.number, d.posting_date, d.total, d.currency, d.method, d.reference, p.id AS party_id, p.code, p.name,
                p.email, COALESCE(NULLIF(a.name, ''), p.name) AS to_name, COALESCE(a.street, p.street) AS street,
                COALESCE(a.city, p.city) AS city, COALESCE(a.country, p.country) AS country
            FROM document d
            JOIN party p ON p.id = d.party_id
            LEFT JOIN party_address a ON a.party_id = p.id AND a.kind = 'remit'
            WHERE d.company_id = ? AND d.side = 'payables' AND d.state = 'posted' AND d.kind IN ('payment', 'prepayment')
                AND d.id IN (?)
            ORDER BY p.code, d.id
            LIMIT

            SQL
            .self::MOST,
            [$companyId, $ids],
            $types,
        );
        $lines = [];
        foreach (
            $this->db->iterateAssociative(
                <<<SQL
                SELECT s.document_id AS payment, i.number, d.their_number, i.document_date, l.applied,
                    COALESCE((SELECT -SUM(x.amount) FROM settlement_adjustment x WHERE x.settlement_id = s.id AND x.item_id = i.id
                    AND x.kind = 'discount'), 0) AS discount, COALESCE((SELECT -SUM(x.amount) FROM settlement_adjustment x
                    WHERE x.settlement_id = s.id AND x.item_id = i.id AND x.kind = 'withholding'), 0) AS withholding,
                    COALESCE((SELECT -SUM(x.amount) FROM settlement_adjustment x WHERE x.settlement_id = s.id AND x.item_id = i.id),
                    0) AS less
                FROM settlement s
                JOIN settlement_line l ON l.settlement_id = s.id
                JOIN open_item i ON i.id = l.item_id
                JOIN document d ON d.id = i.document_id
                WHERE s.company_id = ? AND s.undone_on IS NULL AND i.document_id <> s.document_id AND s.document_id IN (?)
                ORDER BY s.document_id, i.due_date, i.id
                SQL
                ,
                [$companyId, $ids],
                $types,
            ) as $r
        ) {
            $lines[(int) $r['payment']][] = [
                'number' => (string) $r['number'],
                'their_number' => (string) $r['their_number'],
                'document_date' => (string) $r['document_date'],
                'applied' => (int) $r['applied'],
                'discount' => (int) $r['discount'],
                'withholding' => (int) $r['withholding'],
                'paid' => (int) $r['applied'] - (int) $r['less'],
            ];
        }

        return array_map(
            static fn (array $d): array => [
                'd' => $d,
                'lines' => $lines[(int) $d['id']] ?? [],
                'unapplied' => (int) $d['total'] - array_sum(array_column($lines[(int) $d['id']] ?? [], 'paid')),
            ],
            $payments,
        );
    }

    /** @return list<int> the payments of a run */
    public function ofRun(int $companyId, int $proposalId): array
    {
        return array_map(
            'intval',
            $this->db->fetchFirstColumn(
                <<<'SQL'
                SELECT y.document_id
                FROM proposal_payment y
                JOIN proposal p ON p.id = y.proposal_id
                WHERE y.proposal_id = ? AND p.company_id = ? AND y.document_id IS NOT NULL
                ORDER BY y.payment
                SQL
                ,
                [$proposalId, $companyId],
            ),
        );
    }
}
