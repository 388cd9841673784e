<?php

declare(strict_types=1);

namespace Nelbix\App\Close\TieOut;

use Nelbix\Core\Calendar\Day;

/** The break line as points of an SVG of 840 by 120: the difference by day as a step line, over so many days up to the day. */
final readonly class BreakLine
{
    public const SPANS = [30 => '30 days', 92 => '3 months', 365 => 'a year', 731 => 'two years'];

    private const LEFT = 10;
    private const WIDTH = 820;

    /**
     * @param list<array{x: float, label: string}> $days
     * @param list<array{x: float, y: float, day: string, amount: int}> $steps
     */
    private function __construct(
        public string $path,
        public float $zero,
        public array $days,
        public array $steps,
        public string $from,
        public int $span,
    ) {
    }

    /** @param array<string, int> $byDay difference after each day on which it changed, rising */
    public static function of(array $byDay, Day $asOf, int $span): self
    {
        $from = $asOf->plusDays(-$span);
        $start = 0;
        $steps = [];
        foreach ($byDay as $iso => $amount) {
            if (Day::of($iso)->isBefore($from)) {
                $start = $amount;
            } else {
                $steps[] = ['day' => $iso, 'amount' => $amount];
            }
        }
        $values = [0, $start, ...array_column($steps, 'amount')];
        [$low, $high] = [min($values), max($values)];
        $y = static fn (int $amount): float => 30 + (78 * ($high - $amount)) / max(1, $high - $low);
        $x = static fn (Day $day): float => self::LEFT + (self::WIDTH * $from->daysUntil($day)) / $span;
        $path = \sprintf('M%d %.1f', self::LEFT, $y($start));
        $points = [];
        foreach ($steps as $step) {
            $at = Day::of($step['day']);
            $path .= \sprintf('H%.1fV%.1f', $x($at), $y($step['amount']));
            $points[] = ['x' => $x($at), 'y' => $y($step['amount']), ...$step];
        }
        $days = array_map(
            static function (int $k) use ($from, $x, $span): array {
                $day = $from->plusDays(intdiv($span * $k, 3));

                return ['x' => $x($day), 'label' => $span > 365 ? $day->long() : substr($day->long(), 0, -5)];
            },
            [0, 1, 2, 3],
        );

        return new self($path.'H'.(self::LEFT + self::WIDTH), $y(0), $days, $points, $from->iso(), $span);
    }
}
