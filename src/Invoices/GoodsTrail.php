<?php

declare(strict_types=1);

namespace Nelbix\App\Invoices;

use Doctrine\DBAL\ArrayParameterType;
use Doctrine\DBAL\Connection;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Money\Money;

/**
 * Orders and deliveries that documents invoice, for their trail: what was agreed stands from the day of the order until it came, what
 * arrived from its day until it was invoiced.
 *
 * @phpstan-type Goods array{lane: string, route: string, id: int, number: string, from: string, to: string, amount: int, currency: string}
 */
final readonly class GoodsTrail
{
    private const MOST = 12;

    public function __construct(private Connection $db)
    {
    }

    /**
     * @param non-empty-list<int> $documents
     *
     * @return list<Goods> those of one lane by their day; amounts in minor units, what of them the documents invoice
     */
    public function of(array $documents): array
    {
        $rows = $this->db->fetchAllAssociative(
            <<<'SQL'
            SELECT 'arrived' AS lane, 'delivery' AS route, g.id, g.number, g.delivered_on AS from_day,
                GREATEST(m.moved_on, g.delivered_on) AS to_day, SUM(m.amount) AS amount, g.currency
            FROM goods_move m
            JOIN delivery_line l ON l.id = m.delivery_line_id
            JOIN delivery g ON g.id = l.delivery_id
            WHERE m.document_id IN (:ids) AND m.undone_on IS NULL
            GROUP BY g.id, g.number, g.delivered_on, to_day, g.currency
            UNION ALL
            SELECT 'agreed', 'order', o.id, o.number, o.ordered_on, MAX(x.day),
                SUM(ROUND(x.quantity / n.quantity * n.amount)), o.currency
            FROM (
                SELECT l.order_line_id, m.quantity, g.delivered_on AS day
                FROM goods_move m
                JOIN delivery_line l ON l.id = m.delivery_line_id
                JOIN delivery g ON g.id = l.delivery_id
                WHERE m.document_id IN (:ids) AND m.undone_on IS NULL
                UNION ALL
                SELECT w.order_line_id, w.open_quantity, w.invoiced_on
                FROM goods_awaited w
                WHERE w.document_id IN (:ids) AND w.undone_on IS NULL AND w.open_quantity > 0
            ) x
            JOIN purchase_order_line n ON n.id = x.order_line_id
            JOIN purchase_order o ON o.id = n.order_id
            GROUP BY o.id, o.number, o.ordered_on, o.currency
            ORDER BY lane, from_day, id
            LIMIT
            SQL
            .
                ' '.
                self::MOST,
            ['ids' => $documents],
            ['ids' => ArrayParameterType::INTEGER],
        );

        return array_map(
            static fn (array $r): array => [
                'lane' => (string) $r['lane'],
                'route' => (string) $r['route'],
                'id' => (int) $r['id'],
                'number' => (string) $r['number'],
                'from' => (string) $r['from_day'],
                'to' => max((string) $r['from_day'], (string) $r['to_day']),
                'amount' => (int) $r['amount'],
                'currency' => (string) $r['currency'],
            ],
            $rows,
        );
    }

    /**
     * Their bands, one under the other in their lane, each with its number below.
     *
     * @param list<Goods> $goods of one lane
     * @param \Closure(string): float $x
     * @param \Closure(int): float $thick
     *
     * @return array{bands: list<array{path: string, title: string, route: string, id: int, number: string, x: float, y: float}>,
     *     end: float}
     */
    public static function bands(array $goods, float $y, \Closure $x, \Closure $thick): array
    {
        $bands = [];
        foreach ($goods as $g) {
            $w = $thick($g['amount']);
            $bands[] = [
                'path' => \sprintf(
                    'M%.1f %.1fH%.1fV%.1fH%.1fZ',
                    $x($g['from']),
                    $y,
                    max($x($g['from']) + 2, $x($g['to'])),
                    $y + $w,
                    $x($g['from']),
                ),
                'title' => \sprintf(
                    '%s, %s %s %s, %s to %s',
                    $g['number'],
                    $g['lane'],
                    Money::of($g['amount'], $g['currency'])->decimal(),
                    $g['currency'],
                    Day::of($g['from'])->long(),
                    Day::of($g['to'])->long(),
                ),
                'route' => $g['route'],
                'id' => $g['id'],
                'number' => $g['number'],
                'x' => $x($g['from']),
                'y' => $y + $w + 11,
            ];
            $y += $w + 16;
        }

        return ['bands' => $bands, 'end' => $y];
    }
}
