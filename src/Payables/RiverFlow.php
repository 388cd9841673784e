<?php

declare(strict_types=1);

namespace Nelbix\App\Payables;

use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Proposal\Criteria;
use Nelbix\Core\Proposal\Decision;
use Nelbix\Core\Proposal\Reason;
use Symfony\Component\DependencyInjection\Attribute\Exclude;

/**
 * What flows into the river: decisions are added one at a time, and only sums by day and the largest discounts are held.
 *
 * @phpstan-type Column array{day: Day, in: int, out: int, items: int, biggest: int, item: int, edge: string}
 * @phpstan-type Wedge array{item: int, posted: Day, due: Day, through: Day, amount: int, kept: bool}
 */
#[Exclude]
final class RiverFlow
{
    /** Discounts that are drawn; the rest are counted. */
    public const LANES = 7;

    private const HIDDEN = [Reason::OtherCurrency, Reason::OtherMethod, Reason::Filtered];

    public readonly bool $weeks;
    public readonly Day $from;
    public readonly Day $to;

    /** @var array<int, Column> by days from the first; -1 before, one more than the span after */
    public array $columns = [];

    public int $wedgesNotDrawn = 0;
    public int $discountNotDrawn = 0;

    /** @var list<Wedge> */
    private array $wedges = [];

    /** @param int $span days shown; more than 60 group by week */
    public function __construct(public readonly Criteria $criteria, public readonly int $span)
    {
        $this->weeks = $span > 60;
        $this->from = $criteria->payDate->plusDays(-(int) ($span / 4));
        $this->to = $this->from->plusDays($span);
    }

    public function add(Decision $d): void
    {
        $item = $d->candidate->item;
        if ($item->open <= 0 || \in_array($d->reason, self::HIDDEN, true)) {
            return;
        }
        $this->block(
            $d,
            $item->due->isBefore($this->from) ? 'earlier' : ($item->due->isAfter($this->to) ? 'later' : ''),
        );
        foreach ($item->discount->steps ?? [] as $step) {
            if (!$step->through->isBefore($this->criteria->payDate) && !$step->through->isAfter($this->to)) {
                $this->wedges[] = [
                    'item' => $item->id,
                    'posted' => $item->posted,
                    'due' => $item->due,
                    'through' => $step->through,
                    'amount' => $item->discountOn($step->through),
                    'kept' => $d->in,
                ];
                break;
            }
        }
        if (\count($this->wedges) > 100 * self::LANES) {
            $this->cut();
        }
    }

    /** @return list<Wedge> those that are drawn, the largest first */
    public function wedges(): array
    {
        $this->cut();

        return $this->wedges;
    }

    /** @return list<int> the items whose names the drawing shows */
    public function named(): array
    {
        return array_values(
            array_unique([...array_column($this->columns, 'item'), ...array_column($this->wedges(), 'item')]),
        );
    }

    private function block(Decision $d, string $edge): void
    {
        $item = $d->candidate->item;
        $days = '' === $edge ? $this->from->daysUntil($item->due) : ('earlier' === $edge ? -1 : $this->span + 1);
        $key = $this->weeks && '' === $edge ? intdiv($days, 7) * 7 : $days;
        $this->columns[$key] ??= [
            'day' => $this->from->plusDays(max(0, min($this->span, $key))),
            'in' => 0,
            'out' => 0,
            'items' => 0,
            'biggest' => 0,
            'item' => $item->id,
            'edge' => $edge,
        ];
        $this->columns[$key][$d->in ? 'in' : 'out'] += $item->open;
        ++$this->columns[$key]['items'];
        if ($item->open > $this->columns[$key]['biggest']) {
            $this->columns[$key]['biggest'] = $item->open;
            $this->columns[$key]['item'] = $item->id;
        }
    }

    private function cut(): void
    {
        usort(
            $this->wedges,
            static fn (array $a, array $b): int => [$b['amount'], $a['through']->number, $a['item']] <=> [
                $a['amount'],
                $b['through']->number,
                $b['item'],
            ],
        );
        $rest = \array_slice($this->wedges, self::LANES);
        $this->wedges = \array_slice($this->wedges, 0, self::LANES);
        $this->wedgesNotDrawn += \count($rest);
        $this->discountNotDrawn += array_sum(array_column($rest, 'amount'));
    }
}
