<?php

declare(strict_types=1);

namespace Nelbix\App\Payables;

use Nelbix\Core\Calendar\Day;

/**
 * The drawing of what is due: blocks on an axis of days, wedges of discounts under it, the pay date and the day of paying
 * again across both. Positions in the drawing's own units.
 *
 * @phpstan-import-type Wedge from RiverFlow
 */
final readonly class DueRiver
{
    public const WIDTH = 850;
    public const SPANS = [45, 90, 180];

    private const AXIS = 210;
    private const TALLEST = 150;
    private const LEFT = 24;
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

    /** @param array<int, array{their_number: string, name: string, document_id: int}> $names of the items that the flow names */
    public static function of(RiverFlow $flow, array $names): self
    {
        [$criteria, $span, $from, $weeks, $columns] = [
            $flow->criteria,
            $flow->span,
            $flow->from,
            $flow->weeks,
            $flow->columns,
        ];
        $perDay = (self::WIDTH - 2 * self::LEFT) / $span;
        $x = static fn (Day $day): float => round(self::LEFT + max(0, min($span, $from->daysUntil($day))) * $perDay, 1);
        $wedges = $flow->wedges();
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
                    ? mb_strimwidth($names[$c['item']]['name'] ?? '', 0, 15, '…').
                        ($c['items'] > 1 ? ' +'.($c['items'] - 1) : '')
                    : '',
            ];
        }

        return new self(
            self::apart($blocks),
            self::lanes($wedges, $names, $x),
            self::ticks($from, $span, $x),
            $x($criteria->payDate),
            $x($criteria->dueThrough),
            $x($criteria->againOn),
            $perDay,
            self::AXIS + 22 + 16 * max(1, \count($wedges)),
            $flow->wedgesNotDrawn,
            $flow->discountNotDrawn,
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
            $half = 3.6 * mb_strlen($blocks[$k]['label']);
            // as it is drawn: at the edges it is moved in
            $center = min(max($blocks[$k]['x'] + $blocks[$k]['width'] / 2, $half + 4), 846 - $half);
            $top = self::AXIS - $blocks[$k]['in'] - $blocks[$k]['out'];
            foreach ($taken as [$left, $right, $height]) {
                if ($center - $half < $right && $center + $half > $left && abs($top - $height) < 16) {
                    $blocks[$k]['label'] = '';
                    continue 2;
                }
            }
            $taken[] = [$center - $half, $center + $half, $top];
        }

        return $blocks;
    }

    /**
     * @param list<Wedge> $wedges
     * @param array<int, array{their_number: string, name: string, document_id: int}> $names by item
     * @param \Closure(Day): float $x
     *
     * @return list<array{y: int, from: float, to: float, block: float, amount: int, through: Day, kept: bool, document: int}>
     */
    private static function lanes(array $wedges, array $names, \Closure $x): array
    {
        usort(
            $wedges,
            static fn (array $a, array $b): int => [$a['through']->number, $a['item']] <=> [
                $b['through']->number,
                $b['item'],
            ],
        );
        $lanes = [];
        foreach ($wedges as $k => $w) {
            $lanes[] = [
                'y' => self::AXIS + 30 + 16 * $k,
                'from' => $x($w['posted']),
                'to' => $x($w['through']),
                'block' => $x($w['due']),
                'kept' => $w['kept'],
                'document' => $names[$w['item']]['document_id'] ?? 0,
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
