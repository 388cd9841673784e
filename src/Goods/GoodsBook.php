<?php

declare(strict_types=1);

namespace Nelbix\App\Goods;

use Brick\Math\BigDecimal;
use Doctrine\DBAL\ArrayParameterType;
use Doctrine\DBAL\Connection;
use Nelbix\App\Books\LotGuard;
use Nelbix\App\Books\LotOf;
use Nelbix\App\Platform\Actor;
use Nelbix\App\Platform\Bulk;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Matching\Accrued;
use Nelbix\Core\Matching\MoreThanThere;
use Nelbix\Core\Money\Currency;
use Nelbix\Core\ProblemKind;
use Nelbix\Core\Refused;

/**
 * The one writer of what takes delivered goods out of received-not-invoiced, and of what gives them back. Locks delivery lines by id,
 * then order lines by id. Call inside a transaction.
 */
final readonly class GoodsBook
{
    public function __construct(private Connection $db, private Bulk $bulk, private LotGuard $lots)
    {
    }

    /**
     * @param non-empty-list<Taken> $taken as it was worked out before the lock
     * @param int|null $documentId the invoice; null for a slip
     *
     * @throws Refused when it is no longer there, came later, or stands for something else by now
     */
    public function take(
        Actor $actor,
        MoveKind $kind,
        array $taken,
        Day $day,
        ?int $documentId = null,
        ?int $slipId = null,
    ): void {
        $lines = $this->lock($actor->companyId, array_map(static fn (Taken $t): int => $t->line, $taken));
        $this->lots->mustBeThrough(
            LotOf::Deliveries,
            array_values(array_unique(array_map('intval', array_column($lines, 'delivery_id')))),
            'What was delivered',
        );
        $moves = $left = $ofOrder = [];
        foreach ($taken as $t) {
            $row = $lines[$t->line] ?? throw self::gone();
            $left[$t->line] = $this->rest($row, $left[$t->line] ?? self::left($row), $t->part, $day);
            $moves[] = new GoodsMove(
                $t->line,
                $kind,
                (int) $row['control'],
                $documentId,
                $t->position,
                $slipId,
                (string) $t->part->quantity,
                $t->part->amount,
                $t->part->base,
                $day,
                $t->variance,
            );
            if (null !== $row['order_line_id']) {
                $ofOrder[(int) $row['order_line_id']][] = $t->part->quantity;
            }
        }
        $this->bulk->insert($moves);
        $this->store($lines, $left);
        match ($kind) {
            MoveKind::Invoiced => $this->count('invoiced', $ofOrder, 1),
            MoveKind::Returned => $this->count('received', $ofOrder, -1),
            MoveKind::Cleared, MoveKind::Arrived, MoveKind::NeverCame => null,
        };
    }

    /** What a document or a slip took is there again from the day on. */
    public function giveBack(Actor $actor, Day $day, ?int $documentId = null, ?int $slipId = null): void
    {
        $rows = $this->db->fetchAllAssociative(
            'SELECT m.* FROM goods_move m WHERE m.undone_on IS NULL AND '.
                (null === $slipId ? 'm.document_id = ?' : 'm.slip_id = ?').
                ' ORDER BY m.id',
            [$slipId ?? $documentId],
        );
        if ([] === $rows) {
            return;
        }
        $lines = $this->lock(
            $actor->companyId,
            array_map(static fn (array $r): int => (int) $r['delivery_line_id'], $rows),
        );
        $left = $moves = $ofOrder = [];
        foreach ($rows as $r) {
            $id = (int) $r['delivery_line_id'];
            $line = $lines[$id] ?? throw self::gone();
            $there = $left[$id] ?? self::left($line);
            $quantity = BigDecimal::of((string) $r['quantity']);
            $left[$id] = new Accrued(
                $there->quantity->plus($quantity),
                $there->amount + (int) $r['amount'],
                $there->base + (int) $r['amount_base'],
            );
            $moves[(int) $r['id']] = ['undone_on' => $day->iso()];
            if (null !== $line['order_line_id']) {
                $ofOrder[(string) $r['kind']][(int) $line['order_line_id']][] = $quantity;
            }
        }
        $this->bulk->update('goods_move', $moves);
        $this->store($lines, $left, $day);
        $this->count('invoiced', $ofOrder[MoveKind::Invoiced->value] ?? [], -1);
        $this->count('received', $ofOrder[MoveKind::Returned->value] ?? [], 1);
    }

    /**
     * @param array<string, mixed> $row of the locked line
     *
     * @throws Refused
     */
    private function rest(array $row, Accrued $there, Accrued $part, Day $day): Accrued
    {
        if (null !== $row['reversed_on']) {
            throw Refused::because(
                '',
                \sprintf('%s is taken back; it cannot be invoiced.', $row['delivery']),
                ProblemKind::Taken,
            );
        }
        $from = Day::latest(
            Day::of((string) $row['delivered_on']),
            Day::of((string) ($row['last_undone_on'] ?? $row['delivered_on'])),
        );
        if ($day->isBefore($from)) {
            throw Refused::because(
                'posting_date',
                \sprintf(
                    'Of %s nothing can be taken before %s; post it on that day or later.',
                    $row['delivery'],
                    $from->long(),
                ),
            );
        }
        try {
            $now = $there->take(
                $part->quantity,
                BigDecimal::of((string) $row['price']),
                Currency::of((string) $row['currency']),
            );
        } catch (MoreThanThere $e) {
            throw Refused::because(
                '',
                \sprintf(
                    '%s, %s: only %s are left; somebody took of them meanwhile. Load it anew.',
                    $row['delivery'],
                    $row['text'],
                    $e->there->stripTrailingZeros(),
                ),
                ProblemKind::Taken,
            );
        }
        if ($now->amount !== $part->amount || $now->base !== $part->base) {
            throw Refused::because(
                '',
                \sprintf('%s stands for another amount by now; load it anew and look at it again.', $row['delivery']),
                ProblemKind::Taken,
            );
        }

        return $there->less($now);
    }

    /**
     * @param list<int> $ids
     *
     * @return array<int, array<string, mixed>> by id
     */
    private function lock(int $companyId, array $ids): array
    {
        sort($ids);

        return $this->db->fetchAllAssociativeIndexed(
            <<<'SQL'
            SELECT l.id, l.id AS line_id, l.delivery_id, l.text, l.price, l.open_quantity, l.open_amount, l.open_base, l.last_undone_on,
                l.order_line_id, g.number AS delivery, g.delivered_on, g.reversed_on, g.currency, g.account_id AS control
            FROM delivery_line l
            JOIN delivery g ON g.id = l.delivery_id
            WHERE g.company_id = ? AND l.id IN (?)
            ORDER BY l.id
            FOR UPDATE
            SQL
            ,
            [$companyId, array_values(array_unique($ids))],
            [1 => ArrayParameterType::INTEGER],
        );
    }

    /** @param array<string, mixed> $row */
    private static function left(array $row): Accrued
    {
        return new Accrued(
            BigDecimal::of((string) $row['open_quantity']),
            (int) $row['open_amount'],
            (int) $row['open_base'],
        );
    }

    /**
     * @param array<int, array<string, mixed>> $lines
     * @param non-empty-array<int, Accrued> $left by line
     * @param Day|null $undone something was given back on the day
     */
    private function store(array $lines, array $left, ?Day $undone = null): void
    {
        $rows = $deliveries = [];
        foreach ($left as $id => $rest) {
            $rows[$id] = [
                'open_quantity' => (string) $rest->quantity,
                'open_amount' => $rest->amount,
                'open_base' => $rest->base,
                'last_undone_on' => $undone?->iso() ?? $lines[$id]['last_undone_on'],
            ];
            $deliveries[(int) $lines[$id]['delivery_id']] = true;
        }
        $this->bulk->update('delivery_line', $rows);
        $this->db->executeStatement(
            <<<'SQL'
            UPDATE delivery g
            JOIN (
                SELECT delivery_id, SUM(open_base) AS base, MAX(open_quantity > 0) AS is_open
                FROM delivery_line
                WHERE delivery_id IN (?)
                GROUP BY delivery_id
            ) l ON l.delivery_id = g.id
            SET g.open_base = l.base, g.is_open = l.is_open
            SQL
            ,
            [array_keys($deliveries)],
            [ArrayParameterType::INTEGER],
        );
    }

    /** @param array<int, list<BigDecimal>> $ofOrder quantities by order line */
    private function count(string $column, array $ofOrder, int $sign): void
    {
        ksort($ofOrder);
        foreach ($ofOrder as $line => $quantities) {
            $this->db->executeStatement("UPDATE purchase_order_line SET $column = $column + ? WHERE id = ?", [
                (string) BigDecimal::sum(...$quantities)->multipliedBy($sign),
                $line,
            ]);
        }
    }

    private static function gone(): Refused
    {
        return Refused::because('', 'There is no such delivery in this company.', ProblemKind::Unknown);
    }
}
