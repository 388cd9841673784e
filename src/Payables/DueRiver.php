<?php

declare(strict_types=1);

namespace Nelbix\App\Payables;

use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Proposal\Criteria;
use Nelbix\Core\Proposal\Decision;
use Nelbix\Core\Proposal\ProposalResult;
use Nelbix\Core\Proposal\Reason;

/**
 * The drawing of what is due: blocks on an axis of days, wedges of discounts under it, the pay date and the day of paying
 * again across both. Positions in the drawing's own units.
 */
final readonly class DueRiver
{
    public const WIDTH = 850;
    public const SPANS = [45, 90, 180];

    private const AXIS = 210;
    private const TALLEST = 150;
    private const LEFT = 24;
    private const LANES = 7;
    private const LABELS = 12;

    /**
     * @param list<array{x: float, width: float, in: float, out: float, day: Day, label: string, items: int, amount: int,
     *     inAmount: int, edge: string, cut: bool}> $blocks heights of what is in, and of the rest above it
     * @param list<array{y: int, from: float, to: float, block: float, amount: int, through: Day, kept: bool,
     *     document: int}> $wedges
     * @param list<array{x: float, day: Day}> $ticks
     */
    private function __construct(
        public array $blocks,
        public array $wedges,
        public array $ticks,
        public float $pay,
        public float $through,
        public float $again,
        public float $perDay,
        public int $height,
        public int $moreWedges,
        public int $moreDiscount,
        public Day $from,
        public bool $weeks,
    ) {
    }

    /**
     * @param array<int, array{their_number: string, name: string, document_id: int}> $names by item
     * @param int $span days shown; more than 60 group by week
     */
    public static function of(ProposalResult $result, Criteria $criteria, array $names, int $span): self
    {
        $weeks = $span > 60;
        $from = $criteria->payDate->plusDays(-(int) ($span / 4));
        $to = $from->plusDays($span);
        $perDay = (self::WIDTH - 2 * self::LEFT) / $span;
        $x = static fn (Day $day): float => round(self::LEFT + max(0, min($span, $from->daysUntil($day))) * $perDay, 1);
        $columns = [];
        $wedges = [];
        $hidden = [Reason::OtherCurrency, Reason::OtherMethod, Reason::Filtered];
        foreach ([...$result->in, ...$result->out] as $d) {
            $item = $d->candidate->item;
            if ($item->open <= 0 || \in_array($d->reason, $hidden, true)) {
                continue;
            }
            $edge = $item->due->isBefore($from) ? 'earlier' : ($item->due->isAfter($to) ? 'later' : '');
            $days = '' === $edge ? $from->daysUntil($item->due) : ('earlier' === $edge ? -1 : $span + 1);
            $key = $weeks && '' === $edge ? intdiv($days, 7) * 7 : $days;
            $columns[$key] ??= [
                'day' => $from->plusDays(max(0, min($span, $key))),
                'in' => 0,
                'out' => 0,
                'items' => 0,
                'biggest' => 0,
                'name' => '',
                'edge' => $edge,
            ];
            $columns[$key][$d->in ? 'in' : 'out'] += $item->open;
            ++$columns[$key]['items'];
            if ($item->open > $columns[$key]['biggest']) {
                $columns[$key]['biggest'] = $item->open;
                $columns[$key]['name'] = $names[$item->id]['name'] ?? '';
            }
            foreach ($item->discount->steps ?? [] as $step) {
                if (!$step->through->isBefore($criteria->payDate) && !$step->through->isAfter($to)) {
                    $wedges[] = [
                        'd' => $d,
                        'through' => $step->through,
                        'amount' => $item->discountOn($step->through),
                        'document' => $names[$item->id]['document_id'] ?? 0,
                    ];
                    break;
                }
            }
        }
        ksort($columns);
        // what lies before or after the days shown is a sum of many days: it does not press down the days themselves, and is
        // drawn with a cut
        $sums = static fn (array $columns): array => array_map(
            static fn (array $c): int => $c['in'] + $c['out'],
            $columns,
        );
        $shown = $sums(array_filter($columns, static fn (array $c): bool => '' === $c['edge']));
        $highest = max([1, ...[] === $shown ? $sums($columns) : $shown]);
        $labelled = $columns;
        uasort($labelled, static fn (array $a, array $b): int => $b['in'] + $b['out'] <=> $a['in'] + $a['out']);
        $labelled = \array_slice($labelled, 0, self::LABELS, true);
        $width = $weeks ? max(8.0, 7 * $perDay - 4) : max(5.0, min(13.0, $perDay - 3));
        $blocks = [];
        foreach ($columns as $key => $c) {
            $at =
                -1 === $key
                    ? self::LEFT - 12.0
                    : ($key > $span
                        ? self::WIDTH - self::LEFT + 12.0
                        : $x($c['day']) + ($weeks ? $width / 2 : 0));
            $scale = self::TALLEST / max($highest, $c['in'] + $c['out']);
            $blocks[] = [
                'x' => round($at - $width / 2, 1),
                'width' => round($width, 1),
                'in' => round($scale * $c['in'], 1),
                'out' => round($scale * $c['out'], 1),
                'day' => $c['day'],
                'items' => $c['items'],
                'amount' => $c['in'] + $c['out'],
                'inAmount' => $c['in'],
                'edge' => $c['edge'],
                'cut' => $c['in'] + $c['out'] > $highest,
                'label' => isset($labelled[$key])
                    ? mb_strimwidth($c['name'], 0, 15, '…').($c['items'] > 1 ? ' +'.($c['items'] - 1) : '')
                    : '',
            ];
        }

        return new self(
            self::apart($blocks),
            self::lanes($wedges, $x),
            self::ticks($from, $span, $x),
            $x($criteria->payDate),
            $x($criteria->dueThrough),
            $x($criteria->againOn),
            $perDay,
            self::AXIS + 22 + 16 * min(self::LANES, max(1, \count($wedges))),
            max(0, \count($wedges) - self::LANES),
            array_sum(array_column(\array_slice(self::byAmount($wedges), self::LANES), 'amount')),
            $from,
            $weeks,
        );
    }

    /**
     * Labels that would run into each other: the smaller one is left out.
     *
     * @param list<array{x: float, width: float, in: float, out: float, day: Day, label: string, items: int, amount: int,
     *     inAmount: int, edge: string, cut: bool}> $blocks
     *
     * @return list<array{x: float, width: float, in: float, out: float, day: Day, label: string, items: int, amount: int,
     *     inAmount: int, edge: string, cut: bool}>
     */
    private static function apart(array $blocks): array
    {
        $order = array_keys($blocks);
        usort($order, static fn (int $a, int $b): int => $blocks[$b]['amount'] <=> $blocks[$a]['amount'] ?: $a <=> $b);
        $taken = [];
        foreach ($order as $k) {
            if ('' === $blocks[$k]['label']) {
                continue;
            }
            $half = 3.1 * mb_strlen($blocks[$k]['label']);
            $center = $blocks[$k]['x'] + $blocks[$k]['width'] / 2;
            $top = self::AXIS - $blocks[$k]['in'] - $blocks[$k]['out'];
            foreach ($taken as [$left, $right, $height]) {
                if ($center - $half < $right && $center + $half > $left && abs($top - $height) < 13) {
                    $blocks[$k]['label'] = '';
                    continue 2;
                }
            }
            $taken[] = [$center - $half, $center + $half, $top];
        }

        return $blocks;
    }

    /**
     * @param list<array{d: Decision, through: Day, amount: int, document: int}> $wedges
     *
     * @return list<array{d: Decision, through: Day, amount: int, document: int}> the largest first
     */
    private static function byAmount(array $wedges): array
    {
        usort(
            $wedges,
            static fn (array $a, array $b): int => [
                $b['amount'],
                $a['through']->iso(),
                $a['d']->candidate->item->id,
            ] <=> [$a['amount'], $b['through']->iso(), $b['d']->candidate->item->id],
        );

        return $wedges;
    }

    /**
     * @param list<array{d: Decision, through: Day, amount: int, document: int}> $wedges
     * @param \Closure(Day): float $x
     *
     * @return list<array{y: int, from: float, to: float, block: float, amount: int, through: Day, kept: bool, document: int}>
     */
    private static function lanes(array $wedges, \Closure $x): array
    {
        $shown = \array_slice(self::byAmount($wedges), 0, self::LANES);
        usort(
            $shown,
            static fn (array $a, array $b): int => [$a['through']->iso(), $a['d']->candidate->item->id] <=> [
                $b['through']->iso(),
                $b['d']->candidate->item->id,
            ],
        );
        $lanes = [];
        foreach ($shown as $k => $w) {
            $item = $w['d']->candidate->item;
            $lanes[] = [
                'y' => self::AXIS + 30 + 16 * $k,
                'from' => $x($item->posted),
                'to' => $x($w['through']),
                'block' => $x($item->due),
                'kept' => $w['d']->in,
                'document' => $w['document'],
                'amount' => $w['amount'],
                'through' => $w['through'],
            ];
        }

        return $lanes;
    }

    /**
     * @param \Closure(Day): float $x
     *
     * @return list<array{x: float, day: Day}>
     */
    private static function ticks(Day $from, int $span, \Closure $x): array
    {
        $ticks = [];
        for ($n = 0; $n <= $span; $n += $span > 60 ? 14 : 7) {
            $ticks[] = ['x' => $x($from->plusDays($n)), 'day' => $from->plusDays($n)];
        }

        return $ticks;
    }
}
