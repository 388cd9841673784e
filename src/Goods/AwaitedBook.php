<?php

declare(strict_types=1);

namespace Nelbix\App\Goods;

use Brick\Math\BigDecimal;
use Doctrine\DBAL\Connection;
use Nelbix\App\Platform\Actor;
use Nelbix\App\Platform\Bulk;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Matching\Accrued;
use Nelbix\Core\Problem;
use Nelbix\Core\ProblemKind;
use Nelbix\Core\Refused;

/**
 * The one writer of what invoices wait for, of what arrived of it, and of what is taken back. Locks orders, then their lines, then what
 * is awaited. Call inside a transaction.
 */
final readonly class AwaitedBook
{
    public function __construct(
        private Connection $db,
        private Bulk $bulk,
        private OrderedLines $ordered,
        private AwaitedLines $awaited,
    ) {
    }

    /**
     * @param non-empty-list<Awaiting> $lines
     *
     * @throws Refused when by now it came, is invoiced, or its order is closed
     */
    public function wait(Actor $actor, int $documentId, Day $day, array $lines): void
    {
        $ids = array_values(array_unique(array_map(static fn (Awaiting $l): int => $l->orderLine, $lines)));
        $ordered = $this->ordered->of($actor->companyId, $ids, true);
        $waiting = $this->awaited->quantities($ids);
        $records = $problems = [];
        foreach ($lines as $line) {
            $left = self::leftOf($ordered[$line->orderLine] ?? null, $waiting[$line->orderLine] ?? null);
            if ($line->quantity->isGreaterThan($left)) {
                $problems[] = new Problem(
                    '',
                    \sprintf(
                        'Only %s of %s are still to come; somebody was first. Load it anew.',
                        $left,
                        $ordered[$line->orderLine]->text ?? 'it',
                    ),
                    null,
                    ProblemKind::Taken,
                );
            }
            $waiting[$line->orderLine] = $line->quantity->plus($waiting[$line->orderLine] ?? 0);
            $records[] = new GoodsAwaited(
                $actor->companyId,
                $documentId,
                $line->position,
                $line->orderLine,
                $line->control,
                $line->variance,
                (string) $line->quantity,
                $line->amount,
                $line->base,
                $day,
            );
        }
        if ([] !== $problems) {
            throw Refused::all($problems);
        }
        $this->bulk->insert($records);
        foreach ($lines as $line) {
            $this->count($line->orderLine, $line->quantity);
        }
    }

    /** What an invoice may still wait for of an order's line: what is to come and no other invoice waits for. */
    public static function leftOf(?OrderedLine $ordered, ?BigDecimal $waiting): BigDecimal
    {
        return null === $ordered || !$ordered->mayCome()
            ? BigDecimal::zero()
            : BigDecimal::max($ordered->toCome()->minus($waiting ?? 0), 0)->stripTrailingZeros();
    }

    /** @param non-empty-list<array{AwaitedLine, Accrued, int|null}> $parts of lines under their locks; with the line of the delivery */
    public function arrive(array $parts, int $slipId, Day $day): void
    {
        $arrivals = $left = [];
        foreach ($parts as [$line, $part, $deliveryLine]) {
            $arrivals[] = new GoodsArrival(
                $line->id,
                $deliveryLine,
                $slipId,
                $line->control,
                (string) $part->quantity,
                $part->amount,
                $part->base,
                $day,
            );
            $left[$line->id] = ($left[$line->id] ?? $line->left)->less($part);
            if (null === $deliveryLine) {
                $this->count($line->orderLine, $part->quantity->negated());
            }
        }
        $this->bulk->insert($arrivals);
        $this->store($left);
    }

    /** What a slip said arrived is awaited again from the day on. */
    public function giveBack(Actor $actor, int $slipId, Day $day): void
    {
        $rows = $this->db->fetchAllAssociative(
            'SELECT * FROM goods_arrival WHERE slip_id = ? AND undone_on IS NULL ORDER BY id',
            [$slipId],
        );
        $ids = array_values(array_unique(array_map(static fn (array $r): int => (int) $r['awaited_id'], $rows)));
        $lines = $this->awaited->of($actor->companyId, $ids, true);
        $left = $arrivals = [];
        foreach ($rows as $r) {
            $id = (int) $r['awaited_id'];
            $there = $left[$id] ?? $lines[$id]->left;
            $left[$id] = new Accrued(
                $there->quantity->plus((string) $r['quantity']),
                $there->amount + (int) $r['amount'],
                $there->base + (int) $r['amount_base'],
            );
            $arrivals[(int) $r['id']] = ['undone_on' => $day->iso()];
            if (null === $r['delivery_line_id']) {
                $this->count($lines[$id]->orderLine, BigDecimal::of((string) $r['quantity']));
            }
        }
        if ([] !== $arrivals) {
            $this->bulk->update('goods_arrival', $arrivals);
            $this->store($left, $day);
        }
    }

    /** The last day on which something that had arrived for the invoice was taken back; null when nothing was. */
    public function lastUndone(int $documentId): ?Day
    {
        $day = $this->db->fetchOne('SELECT MAX(last_undone_on) FROM goods_awaited WHERE document_id = ?', [
            $documentId,
        ]);

        return \is_string($day) ? Day::of($day) : null;
    }

    /** The invoice is reversed: nothing waits any more. What arrived was given back before. */
    public function end(int $documentId, Day $day): void
    {
        $rows = $this->db->fetchAllAssociative(
            'SELECT id, order_line_id, quantity FROM goods_awaited WHERE document_id = ? AND undone_on IS NULL '.
                'ORDER BY order_line_id FOR UPDATE',
            [$documentId],
        );
        foreach ($rows as $r) {
            $this->count((int) $r['order_line_id'], BigDecimal::of((string) $r['quantity'])->negated());
        }
        if ([] !== $rows) {
            $this->db->executeStatement(
                'UPDATE goods_awaited SET undone_on = ?, open_quantity = 0, open_amount = 0, open_base = 0 WHERE document_id = ?',
                [$day->iso(), $documentId],
            );
        }
    }

    /** @param non-empty-array<int, Accrued> $left by what is awaited */
    private function store(array $left, ?Day $undone = null): void
    {
        $rows = [];
        foreach ($left as $id => $rest) {
            $rows[$id] = [
                'open_quantity' => (string) $rest->quantity,
                'open_amount' => $rest->amount,
                'open_base' => $rest->base,
                ...null === $undone ? [] : ['last_undone_on' => $undone->iso()],
            ];
        }
        $this->bulk->update('goods_awaited', $rows);
    }

    private function count(int $orderLine, BigDecimal $quantity): void
    {
        $this->db->executeStatement('UPDATE purchase_order_line SET invoiced = invoiced + ? WHERE id = ?', [
            (string) $quantity,
            $orderLine,
        ]);
    }
}
