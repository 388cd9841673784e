<?php

declare(strict_types=1);

namespace Nelbix\App\Goods;

use Brick\Math\BigDecimal;
use Doctrine\DBAL\ArrayParameterType;
use Doctrine\DBAL\Connection;

/** Lines of invoices that still wait for their goods. */
final readonly class AwaitedLines
{
    private const SELECT = <<<'SQL'
    SELECT w.*, d.number, d.created_by_id AS entered_by, d.party_id, d.currency, n.text, n.account_id AS line_account
    FROM goods_awaited w
    JOIN document d ON d.id = w.document_id
    JOIN document_line n ON n.document_id = w.document_id AND n.position = w.line_position
    SQL;

    public function __construct(private Connection $db)
    {
    }

    /**
     * What waits for goods of some order lines, the oldest invoice first, under its locks.
     *
     * @param list<int> $orderLines
     *
     * @return list<AwaitedLine>
     */
    public function waitingFor(int $companyId, array $orderLines): array
    {
        $ids =
            [] === $orderLines
                ? []
                : $this->db->fetchFirstColumn(
                    'SELECT id FROM goods_awaited WHERE company_id = ? AND order_line_id IN (?) AND open_quantity > 0 '.
                        'ORDER BY id FOR UPDATE',
                    [$companyId, $orderLines],
                    [1 => ArrayParameterType::INTEGER],
                );

        return array_values($this->of($companyId, array_map(intval(...), $ids)));
    }

    /**
     * @param list<int> $ids
     * @param bool $lock nobody else changes them before the end of the transaction
     *
     * @return array<int, AwaitedLine> by id, the oldest invoice first; those of another company are not there
     */
    public function of(int $companyId, array $ids, bool $lock = false): array
    {
        if ([] === $ids) {
            return [];
        }
        if ($lock) {
            $this->db->fetchFirstColumn(
                'SELECT id FROM goods_awaited WHERE id IN (?) ORDER BY id FOR UPDATE',
                [$ids],
                [ArrayParameterType::INTEGER],
            );
        }
        $lines = [];
        foreach (
            $this->db->fetchAllAssociative(
                self::SELECT.' WHERE w.company_id = ? AND w.id IN (?) ORDER BY w.invoiced_on, w.id',
                [$companyId, $ids],
                [1 => ArrayParameterType::INTEGER],
            ) as $row
        ) {
            $lines[(int) $row['id']] = AwaitedLine::of($row);
        }

        return $lines;
    }

    /**
     * How much invoices wait for already.
     *
     * @param list<int> $orderLines
     * @param int|null $but what this document waits for does not count: it is put right
     *
     * @return array<int, BigDecimal> by order line; those that nothing waits for are not there
     */
    public function quantities(array $orderLines, ?int $but = null): array
    {
        $quantities = [];
        foreach (
            [] === $orderLines
                ? []
                : $this->db->fetchAllKeyValue(
                    'SELECT order_line_id, SUM(open_quantity) FROM goods_awaited WHERE order_line_id IN (?) AND open_quantity > 0 '.
                        'AND document_id <> ? GROUP BY order_line_id',
                    [$orderLines, $but ?? 0],
                    [ArrayParameterType::INTEGER],
                ) as $line => $sum
        ) {
            $quantities[(int) $line] = BigDecimal::of((string) $sum);
        }

        return $quantities;
    }
}
