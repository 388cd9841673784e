<?php

declare(strict_types=1);

namespace Nelbix\App\Goods;

use Brick\Math\BigDecimal;
use Doctrine\DBAL\Connection;
use Nelbix\App\Platform\Actor;
use Nelbix\Core\ProblemKind;
use Nelbix\Core\Refused;

/** Whether what a slip moved may be moved back: neither more than was ordered has come then, nor is more waited for than is to come. */
final readonly class MovedBack
{
    public function __construct(private Connection $db, private VendorTolerances $tolerances)
    {
    }

    /** @throws Refused when something took its place meanwhile; asked after it was moved back, inside the transaction */
    public function mustFit(Actor $actor, int $slipId): void
    {
        foreach ($this->orderLines($slipId) as $r) {
            $number = static fn (string $key): BigDecimal => BigDecimal::of((string) $r[$key]);
            $within = $this->tolerances->of($actor->companyId, (int) $r['party_id'])->quantity;
            if (!$within->allows($number('quantity'), $number('received'))) {
                throw Refused::because(
                    '',
                    \sprintf(
                        'Of “%s” %s were ordered on %s, and what went back came again meanwhile; what is here now stays.',
                        $r['text'],
                        $number('quantity')->stripTrailingZeros(),
                        $r['number'],
                    ),
                    ProblemKind::Taken,
                );
            }
            $toCome = BigDecimal::max($number('quantity')->minus($number('received')), 0);
            if ($number('awaited')->isGreaterThan($toCome)) {
                throw Refused::because(
                    '',
                    \sprintf(
                        '%s waits for “%s”, and no more than that is to come; record what came as a delivery instead.',
                        $r['document'],
                        $r['text'],
                    ),
                    ProblemKind::Taken,
                );
            }
        }
    }

    /** @return list<array<string, mixed>> of what the slip moved, with what invoices wait for */
    private function orderLines(int $slipId): array
    {
        return $this->db->fetchAllAssociative(
            <<<'SQL'
            SELECT n.text, n.quantity, n.received, o.number, o.party_id, COALESCE(SUM(w.open_quantity), 0) AS awaited,
                MIN(d.number) AS document
            FROM purchase_order_line n
            JOIN purchase_order o ON o.id = n.order_id
            LEFT JOIN goods_awaited w ON w.order_line_id = n.id AND w.open_quantity > 0
            LEFT JOIN document d ON d.id = w.document_id
            WHERE n.id IN (
                SELECT l.order_line_id
                FROM goods_move m
                JOIN delivery_line l ON l.id = m.delivery_line_id
                WHERE m.slip_id = :slip AND m.kind = 'returned'
                UNION
                SELECT a.order_line_id
                FROM goods_arrival v
                JOIN goods_awaited a ON a.id = v.awaited_id
                WHERE v.slip_id = :slip
                UNION
                SELECT l.order_line_id
                FROM goods_claim c
                JOIN delivery_line l ON l.id = c.delivery_line_id
                WHERE c.slip_id = :slip
            )
            GROUP BY n.id, n.text, n.quantity, n.received, o.number, o.party_id
            SQL
            ,
            ['slip' => $slipId],
        );
    }
}
