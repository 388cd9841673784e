<?php

declare(strict_types=1);

namespace Nelbix\App\Goods;

use Brick\Math\BigDecimal;
use Doctrine\ORM\EntityManagerInterface;
use Nelbix\Core\Problem;
use Nelbix\Core\ProblemKind;
use Nelbix\Core\Refused;

/** Makes the lines of an order those of the form. What has come or was invoiced stays: not less than that, and of the same account. */
final readonly class ChangeOrderLines
{
    public function __construct(private EntityManagerInterface $entities, private AwaitedLines $awaited)
    {
    }

    /**
     * @return string which lines changed, in words; empty when none did
     *
     * @throws Refused with every problem
     */
    public function of(PurchaseOrder $order, OrderInput $input): string
    {
        $old = $this->lines($order);
        $awaited = $this->awaited->quantities(array_keys($old));
        $kept = $problems = $said = [];
        $position = [] === $old ? 0 : max(array_map(static fn (PurchaseOrderLine $l): int => $l->position, $old));
        foreach ($input->lines as $k => $line) {
            $record = null === $line->id ? null : $old[$line->id] ?? null;
            if (null !== $line->id && null === $record) {
                $problems[] = new Problem(
                    "lines.$k.text",
                    'This line is gone; load the order anew.',
                    null,
                    ProblemKind::Taken,
                );
                continue;
            }
            if (null !== $record) {
                $kept[$line->id] = true;
                array_push($problems, ...self::lessThanCame($record, $line, $awaited[$record->id()] ?? null, $k));
                $said = [...$said, ...self::change($record, $line)];
                continue;
            }
            $this->entities->persist(self::made($order, ++$position, $line));
            $said = [] === $old ? [] : [...$said, \sprintf('“%s” added', $line->text)];
        }
        foreach (array_diff_key($old, $kept) as $record) {
            if (self::touched($record, $awaited[$record->id()] ?? null)->isPositive()) {
                $problems[] = new Problem(
                    'lines',
                    \sprintf('Of “%s” something has come or was invoiced; its line stays.', $record->text),
                );
            }
            $said[] = \sprintf('“%s” taken off', $record->text);
            $this->entities->remove($record);
        }
        if ([] !== $problems) {
            throw Refused::all($problems);
        }
        $this->entities->flush();

        return mb_strimwidth(implode(', ', $said), 0, 255, '…');
    }

    /** @return array<int, PurchaseOrderLine> by id, under their locks */
    private function lines(PurchaseOrder $order): array
    {
        $this->entities
            ->getConnection()
            ->fetchFirstColumn('SELECT id FROM purchase_order_line WHERE order_id = ? ORDER BY id FOR UPDATE', [
                $order->id(),
            ]);
        $lines = [];
        foreach (
            $this->entities->getRepository(PurchaseOrderLine::class)->findBy(['order' => $order], ['position' => 'ASC']) as $line
        ) {
            $this->entities->refresh($line);
            $lines[$line->id()] = $line;
        }

        return $lines;
    }

    /** The more of what came, with what invoices wait for, and what was invoiced. */
    private static function touched(PurchaseOrderLine $record, ?BigDecimal $awaited): BigDecimal
    {
        return BigDecimal::max(BigDecimal::of($record->received)->plus($awaited ?? 0), $record->invoiced);
    }

    /** @return list<Problem> */
    private static function lessThanCame(
        PurchaseOrderLine $record,
        OrderLineInput $line,
        ?BigDecimal $awaited,
        int $k,
    ): array {
        $touched = self::touched($record, $awaited)->stripTrailingZeros();
        if (!$touched->isPositive()) {
            return [];
        }
        $problems = [];
        if ($line->quantity->isLessThan($touched)) {
            $problems[] = new Problem(
                "lines.$k.quantity",
                \sprintf('%s have come or were invoiced; it cannot be less.', $touched),
            );
        }
        if ($line->service !== $record->service || $line->unit !== $record->unit) {
            $problems[] = new Problem(
                "lines.$k.unit",
                \sprintf('%s have come; kind and unit stay. Add another line instead.', $touched),
            );
        }

        return $problems;
    }

    /** @return list<string> */
    private static function change(PurchaseOrderLine $record, OrderLineInput $line): array
    {
        $said = [];
        foreach (['quantity' => $line->quantity, 'price' => $line->price] as $what => $new) {
            $was = BigDecimal::of($record->{$what});
            if (!$was->isEqualTo($new)) {
                $said[] = \sprintf('%s of “%s” %s, was %s', $what, $line->text, $new, $was->stripTrailingZeros());
            }
        }
        $record->service = $line->service;
        $record->accountId = $line->account;
        $record->text = $line->text;
        $record->quantity = (string) $line->quantity;
        $record->unit = $line->unit;
        $record->price = (string) $line->price;
        $record->amount = $line->amount;
        $record->taxCodeId = $line->taxCode;
        [$record->costCenterId, $record->departmentId, $record->projectId] = [
            $line->analysis->costCenter,
            $line->analysis->department,
            $line->analysis->project,
        ];
        $record->wantedBy = $line->wantedBy;

        return $said;
    }

    private static function made(PurchaseOrder $order, int $position, OrderLineInput $line): PurchaseOrderLine
    {
        return new PurchaseOrderLine(
            $order,
            $position,
            $line->service,
            $line->account,
            $line->text,
            (string) $line->quantity,
            $line->unit,
            (string) $line->price,
            $line->amount,
            $line->taxCode,
            $line->analysis->costCenter,
            $line->analysis->department,
            $line->analysis->project,
            $line->wantedBy,
        );
    }
}
