<?php

declare(strict_types=1);

namespace Nelbix\App\Goods;

use Brick\Math\BigDecimal;
use Doctrine\DBAL\ArrayParameterType;
use Doctrine\DBAL\Connection;
use Nelbix\App\Platform\Actor;
use Nelbix\App\Platform\Bulk;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\ProblemKind;
use Nelbix\Core\Refused;

/** The one writer of what went back after it was invoiced. Inside a transaction. */
final readonly class ReturnedGoods
{
    public function __construct(private Connection $db, private Bulk $bulk, private MovedBack $movedBack)
    {
    }

    /**
     * What of delivery lines is invoiced and has not gone back, the latest invoice first, under the lines' locks.
     *
     * @param non-empty-list<int> $lines
     *
     * @return array<int, list<InvoicedPart>> by delivery line
     */
    public function invoiced(array $lines): array
    {
        sort($lines);
        $this->db->fetchFirstColumn(
            'SELECT id FROM delivery_line WHERE id IN (?) ORDER BY id FOR UPDATE',
            [$lines],
            [ArrayParameterType::INTEGER],
        );
        $parts = [];
        foreach (
            $this->db->fetchAllAssociative(
                <<<'SQL'
                SELECT m.delivery_line_id, m.document_id, m.line_position, MAX(m.moved_on) AS moved_on,
                    SUM(m.quantity) - COALESCE((
                        SELECT SUM(c.quantity)
                        FROM goods_claim c
                        WHERE c.delivery_line_id = m.delivery_line_id AND c.invoice_id = m.document_id
                            AND c.line_position = m.line_position AND c.undone_on IS NULL
                    ), 0) AS quantity
                FROM goods_move m
                WHERE m.delivery_line_id IN (?) AND m.kind IN ('invoiced', 'arrived') AND m.undone_on IS NULL
                GROUP BY m.delivery_line_id, m.document_id, m.line_position
                HAVING quantity > 0
                ORDER BY m.document_id DESC, m.line_position DESC
                SQL
                ,
                [$lines],
                [ArrayParameterType::INTEGER],
            ) as $r
        ) {
            $parts[(int) $r['delivery_line_id']][] = new InvoicedPart(
                (int) $r['delivery_line_id'],
                (int) $r['document_id'],
                (int) $r['line_position'],
                BigDecimal::of((string) $r['quantity']),
                Day::of((string) $r['moved_on']),
            );
        }

        return $parts;
    }

    /** @param non-empty-list<InvoicedPart> $parts of one invoice */
    public function keep(GoodsSlip $slip, int $claim, array $parts): void
    {
        $this->bulk->insert(
            array_map(
                static fn (InvoicedPart $p): GoodsClaim => new GoodsClaim(
                    $slip->id(),
                    $p->deliveryLine,
                    $claim,
                    $p->invoice,
                    $p->position,
                    (string) $p->quantity,
                    $slip->movedOn,
                ),
                $parts,
            ),
        );
        $this->count($claim, -1);
    }

    /** The claim is reversed: what it claims is here, and invoiced, as before. */
    public function giveBack(Actor $actor, int $claim, Day $day): void
    {
        $this->count($claim, 1);
        $this->db->executeStatement(
            'UPDATE goods_claim SET undone_on = ? WHERE document_id = ? AND undone_on IS NULL',
            [$day->iso(), $claim],
        );
        $slip = $this->db->fetchOne('SELECT slip_id FROM goods_claim WHERE document_id = ? LIMIT 1', [$claim]);
        if (false !== $slip) {
            $this->movedBack->mustFit($actor, (int) $slip);
        }
    }

    /** The vendor's credit note takes the claim's place: what went back is credited, and no more claimed. */
    public function pass(int $claim, int $credit): void
    {
        $this->db->executeStatement(
            'UPDATE goods_claim SET document_id = ? WHERE document_id = ? AND undone_on IS NULL',
            [$credit, $claim],
        );
    }

    /** @throws Refused once the vendor's credit note took the place of a claim of the slip */
    public function mustNotBeCredited(int $slipId): void
    {
        $credits = $this->db->fetchFirstColumn(
            "SELECT DISTINCT d.number FROM goods_claim c JOIN document d ON d.id = c.document_id AND d.kind = 'credit_note' ".
                'WHERE c.slip_id = ? AND c.undone_on IS NULL ORDER BY 1',
            [$slipId],
        );
        if ([] !== $credits) {
            throw Refused::because(
                '',
                \sprintf('The vendor credited it with %s; reverse that first.', implode(', ', $credits)),
                ProblemKind::Taken,
            );
        }
    }

    /** @return list<int> claims of a slip that stand */
    public function claims(int $slipId): array
    {
        return array_map(
            intval(...),
            $this->db->fetchFirstColumn(
                'SELECT DISTINCT document_id FROM goods_claim WHERE slip_id = ? AND undone_on IS NULL ORDER BY document_id',
                [$slipId],
            ),
        );
    }

    /** @throws Refused for an invoice, or a delivery, of which invoiced goods went back */
    public function mustNotHaveGoneBack(?int $invoiceId, ?int $deliveryId = null): void
    {
        $slips = $this->db->fetchFirstColumn(
            'SELECT DISTINCT s.number FROM goods_claim c JOIN goods_slip s ON s.id = c.slip_id '.
                'JOIN delivery_line l ON l.id = c.delivery_line_id '.
                'WHERE (c.invoice_id = ? OR l.delivery_id = ?) AND c.undone_on IS NULL ORDER BY 1',
            [$invoiceId ?? 0, $deliveryId ?? 0],
        );
        if ([] !== $slips) {
            throw Refused::because(
                '',
                \sprintf('Goods of it went back with %s, and are claimed; undo that first.', implode(', ', $slips)),
                ProblemKind::Taken,
            );
        }
    }

    /** What went back is to come again on its order, and to be invoiced again. */
    private function count(int $claim, int $sign): void
    {
        foreach (
            $this->db->fetchAllKeyValue(
                <<<'SQL'
                SELECT l.order_line_id, SUM(c.quantity)
                FROM goods_claim c
                JOIN delivery_line l ON l.id = c.delivery_line_id
                WHERE c.document_id = ? AND c.undone_on IS NULL AND l.order_line_id IS NOT NULL
                GROUP BY l.order_line_id
                ORDER BY l.order_line_id
                SQL
                ,
                [$claim],
            ) as $line => $quantity
        ) {
            $this->db->executeStatement(
                'UPDATE purchase_order_line SET received = received + :q, invoiced = invoiced + :q WHERE id = :line',
                ['q' => (string) BigDecimal::of((string) $quantity)->multipliedBy($sign), 'line' => $line],
            );
        }
    }
}
