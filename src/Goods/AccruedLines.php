<?php

declare(strict_types=1);

namespace Nelbix\App\Goods;

use Doctrine\DBAL\ArrayParameterType;
use Doctrine\DBAL\Connection;

/** Delivered goods with what is left of them to be invoiced. */
final readonly class AccruedLines
{
    /** So many lines a vendor's list shows; more are found by narrowing it. */
    public const MOST = 300;

    private const SELECT = <<<'SQL'
    SELECT l.id, l.delivery_id, g.number AS delivery, g.note_number, g.delivered_on, g.reversed_on, g.party_id, g.currency,
        g.account_id AS control, l.account_id, a.number AS account, l.text, l.unit, l.price, l.open_quantity, l.open_amount,
        l.open_base, l.last_undone_on, l.cost_center_id, l.department_id, l.project_id, c.code AS cost_center,
        d.code AS department, p.code AS project, g.created_by_id AS received_by, l.order_line_id, o.number AS order_number,
        o.created_by_id AS ordered_by, n.price AS agreed, n.quantity AS ordered, n.invoiced, n.position AS order_position,
        t.code AS tax_code
    FROM delivery g
    JOIN delivery_line l ON l.delivery_id = g.id
    JOIN account a ON a.id = l.account_id
    LEFT JOIN purchase_order_line n ON n.id = l.order_line_id
    LEFT JOIN purchase_order o ON o.id = n.order_id
    LEFT JOIN tax_code t ON t.id = n.tax_code_id
    LEFT JOIN analysis_code c ON c.id = l.cost_center_id
    LEFT JOIN analysis_code d ON d.id = l.department_id
    LEFT JOIN analysis_code p ON p.id = l.project_id
    SQL;

    public function __construct(private Connection $db)
    {
    }

    /**
     * @param list<int> $ids of delivery lines
     *
     * @return array<int, AccruedLine> by id; those of another company are not there
     */
    public function of(int $companyId, array $ids): array
    {
        return [] === $ids
            ? []
            : self::byId(
                $this->db->fetchAllAssociative(
                    self::SELECT.' WHERE g.company_id = ? AND l.id IN (?)',
                    [$companyId, $ids],
                    [1 => ArrayParameterType::INTEGER],
                ),
            );
    }

    /** @return array<int, AccruedLine> by id, of one delivery */
    public function ofDelivery(int $companyId, int $deliveryId): array
    {
        return self::byId(
            $this->db->fetchAllAssociative(self::SELECT.' WHERE g.company_id = ? AND g.id = ? ORDER BY l.position', [
                $companyId,
                $deliveryId,
            ]),
        );
    }

    /**
     * What a vendor delivered and nobody invoiced, the oldest first.
     *
     * @param string $words of goods, delivery, note or order, which narrow it
     *
     * @return array<int, AccruedLine> at most MOST
     */
    public function ofVendor(int $companyId, int $partyId, string $words = ''): array
    {
        $like = '%'.addcslashes($words, '%_\\').'%';

        return self::byId(
            $this->db->fetchAllAssociative(
                self::SELECT.
                    ' WHERE g.company_id = :company AND g.is_open = 1 AND g.party_id = :party AND l.open_quantity > 0 '.
                    'AND (:like = \'%%\' OR l.text LIKE :like OR g.number LIKE :like OR g.note_number LIKE :like OR o.number LIKE :like) '.
                    'ORDER BY g.delivered_on, g.id, l.position LIMIT '.
                    self::MOST,
                ['company' => $companyId, 'party' => $partyId, 'like' => $like],
            ),
        );
    }

    /** @return array{lines: int, base: int, to_come: int} what a vendor delivered and nobody invoiced, base minor units; lines to come */
    public function waiting(int $companyId, int $partyId): array
    {
        $row = $this->db->fetchNumeric(
            'SELECT COUNT(*), COALESCE(SUM(l.open_base), 0), (SELECT COUNT(*) FROM purchase_order o '.
                'JOIN purchase_order_line n ON n.order_id = o.id AND n.received < n.quantity AND n.invoiced < n.quantity '.
                "WHERE o.party_id = :party AND o.closed_on IS NULL AND o.approval IN ('none', 'approved')) ".
                'FROM delivery g JOIN delivery_line l ON l.delivery_id = g.id '.
                'WHERE g.company_id = :company AND g.is_open = 1 AND g.party_id = :party AND l.open_quantity > 0',
            ['company' => $companyId, 'party' => $partyId],
        ) ?: [0, 0, 0];

        return ['lines' => (int) $row[0], 'base' => (int) $row[1], 'to_come' => (int) $row[2]];
    }

    /**
     * @param list<array<string, mixed>> $rows
     *
     * @return array<int, AccruedLine>
     */
    private static function byId(array $rows): array
    {
        $lines = [];
        foreach ($rows as $row) {
            $lines[(int) $row['id']] = AccruedLine::of($row);
        }

        return $lines;
    }
}
