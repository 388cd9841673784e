<?php

declare(strict_types=1);

namespace Nelbix\App\Goods;

use Doctrine\DBAL\Connection;

/** Deliveries, the last first. */
final readonly class DeliveryListQuery
{
    /** So many stand on the page; a file has them all. */
    public const PAGE = 300;

    public function __construct(private Connection $db)
    {
    }

    /**
     * @param bool $all reversed ones too
     *
     * @return list<array<string, mixed>>
     */
    public function of(int $companyId, bool $all, ?int $limit): array
    {
        return $this->db->fetchAllAssociative(
            <<<'SQL'
            SELECT g.id, g.number, g.note_number, g.delivered_on, g.reversed_on, g.reason, g.currency, g.amount, g.amount_base,
                p.code, p.name, u.name AS by_name
            FROM delivery g
            JOIN party p ON p.id = g.party_id
            JOIN app_user u ON u.id = g.created_by_id
            WHERE g.company_id = ? AND (? OR g.reversed_on IS NULL)
            ORDER BY g.delivered_on DESC, g.id DESC

            SQL
            .(null === $limit ? '' : 'LIMIT '.$limit),
            [$companyId, (int) $all],
        );
    }

    /** @return array{count: int, base: int} of all of them, for the foot */
    public function sum(int $companyId, bool $all): array
    {
        $sum = $this->db->fetchNumeric(
            'SELECT COUNT(*), COALESCE(SUM(amount_base), 0) FROM delivery WHERE company_id = ? AND (? OR reversed_on IS NULL)',
            [$companyId, (int) $all],
        ) ?: [0, 0];

        return ['count' => (int) $sum[0], 'base' => (int) $sum[1]];
    }
}
