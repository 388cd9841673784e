<?php

declare(strict_types=1);

namespace Nelbix\App\Goods;

use Brick\Math\BigDecimal;
use Doctrine\DBAL\Connection;

/** One order, for its page, its paper and what is said of it. */
final readonly class OrderQuery
{
    public function __construct(private Connection $db)
    {
    }

    /** @return list<array<string, mixed>> deliveries that came for it */
    public function deliveries(int $orderId): array
    {
        return $this->db->fetchAllAssociative(
            <<<'SQL'
            SELECT DISTINCT g.id, g.number, g.note_number, g.delivered_on, g.reversed_on, g.remark, u.name AS by_name
            FROM purchase_order_line n
            JOIN delivery_line l ON l.order_line_id = n.id
            JOIN delivery g ON g.id = l.delivery_id
            JOIN app_user u ON u.id = g.created_by_id
            WHERE n.order_id = ?
            ORDER BY g.delivered_on, g.id
            SQL
            ,
            [$orderId],
        );
    }

    /** @return list<array<string, mixed>> invoices of what came for it */
    public function invoices(int $orderId): array
    {
        return $this->db->fetchAllAssociative(
            <<<'SQL'
            SELECT d.id, d.number, d.their_number, d.posting_date, d.total, d.currency, d.state
            FROM document d
            WHERE d.id IN (
                SELECT m.document_id
                FROM purchase_order_line n
                JOIN delivery_line l ON l.order_line_id = n.id
                JOIN goods_move m ON m.delivery_line_id = l.id
                WHERE n.order_id = :order
                UNION
                SELECT w.document_id
                FROM purchase_order_line n
                JOIN goods_awaited w ON w.order_line_id = n.id
                WHERE n.order_id = :order
            )
            ORDER BY d.posting_date, d.id
            SQL
            ,
            ['order' => $orderId],
        );
    }

    /** @return array<string, mixed>|false code, name, address and language of the vendor, and who ordered */
    public function head(int $orderId): array|false
    {
        return $this->db->fetchAssociative(
            <<<'SQL'
            SELECT v.id AS party_id, v.code, v.name, v.street, v.city, v.country, v.email, v.language, v.retired, u.name AS by_name
            FROM purchase_order o
            JOIN party v ON v.id = o.party_id
            JOIN app_user u ON u.id = o.created_by_id
            WHERE o.id = ?
            SQL
            ,
            [$orderId],
        );
    }

    /**
     * The order as the form would have been typed, to change it.
     *
     * @param list<OrderedLine> $lines
     *
     * @return array<string, mixed>
     */
    public static function form(PurchaseOrder $order, string $vendor, array $lines): array
    {
        return [
            'party' => $vendor,
            'ordered_on' => $order->orderedOn->long(),
            'wanted_by' => $order->wantedBy?->long() ?? '',
            'currency' => $order->currency,
            'note' => $order->note,
            'version' => (string) $order->version,
            'lines' => array_map(
                static fn (OrderedLine $l): array => [
                    'id' => (string) $l->id,
                    'kind' => $l->service ? 'service' : 'goods',
                    'account' => $l->accountNumber,
                    'text' => $l->text,
                    'quantity' => self::plain($l->quantity),
                    'unit' => $l->unit,
                    'price' => self::plain($l->price),
                    'tax_code' => $l->taxCode,
                    ...$l->codes,
                ],
                $lines,
            ),
        ];
    }

    private static function plain(BigDecimal $n): string
    {
        return (string) $n->stripTrailingZeros();
    }
}
