<?php

declare(strict_types=1);

namespace Nelbix\App\Goods;

use Doctrine\DBAL\ArrayParameterType;
use Doctrine\DBAL\Connection;

/** Lines of orders: of one order, by their ids, or what is still to come. */
final readonly class OrderedLines
{
    public const MOST = 200;

    private const SELECT = <<<'SQL'
    SELECT n.id, n.order_id, o.number, o.party_id, v.name AS vendor, v.code AS vendor_code, o.currency, o.created_by_id AS ordered_by,
        u.name AS ordered_by_name, o.approval, o.closed_on, n.position, n.service, n.account_id, a.number AS account, n.text,
        n.quantity, n.unit, n.price, n.amount, n.cost_center_id, n.department_id, n.project_id, c.code AS cost_center,
        d.code AS department, p.code AS project, t.code AS tax_code, COALESCE(n.wanted_by, o.wanted_by) AS wanted_by, n.received,
        n.invoiced
    FROM purchase_order o
    JOIN purchase_order_line n ON n.order_id = o.id
    JOIN party v ON v.id = o.party_id
    JOIN app_user u ON u.id = o.created_by_id
    JOIN account a ON a.id = n.account_id
    LEFT JOIN tax_code t ON t.id = n.tax_code_id
    LEFT JOIN analysis_code c ON c.id = n.cost_center_id
    LEFT JOIN analysis_code d ON d.id = n.department_id
    LEFT JOIN analysis_code p ON p.id = n.project_id
    SQL;

    public function __construct(private Connection $db)
    {
    }

    /** @return list<OrderedLine> in their order */
    public function ofOrder(int $orderId): array
    {
        return array_map(
            OrderedLine::of(...),
            $this->db->fetchAllAssociative(self::SELECT.' WHERE o.id = ? ORDER BY n.position', [$orderId]),
        );
    }

    /**
     * @param list<int> $ids
     * @param bool $lock nobody else changes them or closes their orders before the end of the transaction
     *
     * @return array<int, OrderedLine> by id; those of another company are not there
     */
    public function of(int $companyId, array $ids, bool $lock = false): array
    {
        if ([] === $ids) {
            return [];
        }
        if ($lock) {
            sort($ids);
            $this->db->fetchFirstColumn(
                'SELECT o.id FROM purchase_order o WHERE o.id IN (SELECT order_id FROM purchase_order_line WHERE id IN (?)) '.
                    'ORDER BY o.id FOR UPDATE',
                [$ids],
                [ArrayParameterType::INTEGER],
            );
            $this->db->fetchFirstColumn(
                'SELECT id FROM purchase_order_line WHERE id IN (?) ORDER BY id FOR UPDATE',
                [$ids],
                [ArrayParameterType::INTEGER],
            );
        }

        return self::byId(
            $this->db->fetchAllAssociative(
                self::SELECT.' WHERE o.company_id = ? AND n.id IN (?) ORDER BY n.id',
                [$companyId, $ids],
                [1 => ArrayParameterType::INTEGER],
            ),
        );
    }

    /** @return int|null id of the line of a vendor's order; null when there is none */
    public function numbered(int $companyId, int $partyId, string $order, int $position): ?int
    {
        $id = $this->db->fetchOne(
            'SELECT n.id FROM purchase_order o JOIN purchase_order_line n ON n.order_id = o.id '.
                'WHERE o.company_id = ? AND o.number = ? AND o.party_id = ? AND n.position = ?',
            [$companyId, $order, $partyId, $position],
        );

        return false === $id ? null : (int) $id;
    }

    /**
     * What is still to come: approved orders that are not closed, what is wanted first.
     *
     * @param int|null $partyId of one vendor; null of all
     * @param string $words of vendor, order or goods, which narrow it
     * @param bool|null $services only services, or only goods; null for both
     *
     * @return array<int, OrderedLine> at most MOST
     */
    public function toCome(int $companyId, ?int $partyId, string $words, ?bool $services): array
    {
        $like = '%'.addcslashes($words, '%_\\').'%';

        return self::byId(
            $this->db->fetchAllAssociative(
                self::SELECT.
                    " WHERE o.company_id = :company AND o.closed_on IS NULL AND o.approval IN ('none', 'approved') ".
                    'AND n.received < n.quantity AND (:service IS NULL OR n.service = :service) '.
                    'AND (:party IS NULL OR o.party_id = :party) '.
                    "AND (:like = '%%' OR v.name LIKE :like OR v.code LIKE :like OR o.number LIKE :like OR n.text LIKE :like) ".
                    'ORDER BY COALESCE(n.wanted_by, o.wanted_by, o.ordered_on), o.id, n.position LIMIT '.
                    self::MOST,
                [
                    'company' => $companyId,
                    'party' => $partyId,
                    'like' => $like,
                    'service' => null === $services ? null : (int) $services,
                ],
            ),
        );
    }

    /**
     * @param list<array<string, mixed>> $rows
     *
     * @return array<int, OrderedLine>
     */
    private static function byId(array $rows): array
    {
        $lines = [];
        foreach ($rows as $row) {
            $lines[(int) $row['id']] = OrderedLine::of($row);
        }

        return $lines;
    }
}
