<?php

declare(strict_types=1);

namespace Nelbix\App\Close\Outlook;

use Nelbix\Core\Aging\CashOutlook;
use Nelbix\Core\Aging\CashWeek;
use Nelbix\Core\Calendar\Day;

/**
 * An outlook as it is drawn: above, the balance at each week's end as a band from the low to the high one, and a line as expected; below,
 * what comes of each week upwards and what goes downwards, and the payments that can be moved as marks on their days.
 */
final readonly class OutlookDrawing
{
    public const WIDTH = 880;
    private const LEFT = 4;
    private const TOP = 26;
    private const BALANCE = 104;
    private const AXIS = 206;
    private const FLOW = 46;

    private float $perDay;
    private int $low;
    private int $span;
    private int $most;

    /**
     * @param non-empty-list<CashWeek> $weeks
     * @param non-empty-list<CashWeek> $plain the same without anything moved
     */
    public function __construct(private int $opening, private array $weeks, private array $plain)
    {
        $this->perDay = (self::WIDTH - 2 * self::LEFT) / (7 * \count($weeks));
        $this->low = min(0, $opening, ...array_column([...$weeks, ...$plain], 'low'));
        $this->span = max(1, max(0, $opening, ...array_column([...$weeks, ...$plain], 'high')) - $this->low);
        $most = 1;
        foreach ($weeks as $w) {
            $most = max($most, self::sum($w, 1), self::sum($w, -1));
        }
        $this->most = $most;
    }

    public function perDay(): float
    {
        return $this->perDay;
    }

    /** @return string the outline of what the balance may be */
    public function band(): string
    {
        $there = $back = [];
        foreach ($this->weeks as $k => $w) {
            $there[] = $this->end($k).' '.$this->y($w->high);
            array_unshift($back, $this->end($k).' '.$this->y($w->low));
        }

        return 'M'.$this->start().'L'.implode('L', [...$there, ...$back]).'Z';
    }

    /** @return string the balance as expected */
    public function line(): string
    {
        return $this->path($this->weeks);
    }

    /** @return string the balance as expected without anything moved */
    public function was(): string
    {
        return $this->path($this->plain);
    }

    public function zero(): float
    {
        return $this->y(0);
    }

    public function axis(): int
    {
        return self::AXIS;
    }

    /** @return list<array{x: float, width: float, in: float, out: float, week: CashWeek, came: int, went: int}> bars by week */
    public function bars(): array
    {
        $bars = [];
        foreach ($this->weeks as $k => $w) {
            $bars[] = [
                'x' => round(self::LEFT + 7 * $k * $this->perDay + 3, 1),
                'width' => round(7 * $this->perDay - 6, 1),
                'in' => round((self::FLOW * self::sum($w, 1)) / $this->most, 1),
                'out' => round((self::FLOW * self::sum($w, -1)) / $this->most, 1),
                'week' => $w,
                'came' => self::sum($w, 1),
                'went' => self::sum($w, -1),
            ];
        }

        return $bars;
    }

    public function x(Day $day): float
    {
        $days = CashOutlook::monday($this->weeks[0]->from)->daysUntil($day);

        return round(self::LEFT + (max(0, min(7 * \count($this->weeks), $days)) + 0.5) * $this->perDay, 1);
    }

    /** @param int $sign 1 for what comes, −1 for what goes; minor units, positive */
    private static function sum(CashWeek $week, int $sign): int
    {
        return array_sum(array_map(static fn (int $v): int => max(0, $sign * $v), $week->sums));
    }

    /** @param non-empty-list<CashWeek> $weeks */
    private function path(array $weeks): string
    {
        $points = [];
        foreach ($weeks as $k => $w) {
            $points[] = $this->end($k).' '.$this->y($w->usual);
        }

        return 'M'.$this->start().'L'.implode('L', $points);
    }

    private function start(): string
    {
        return self::LEFT.' '.$this->y($this->opening);
    }

    private function end(int $week): float
    {
        return round(self::LEFT + 7 * ($week + 1) * $this->perDay, 1);
    }

    private function y(int $balance): float
    {
        return round(self::TOP + self::BALANCE * (1 - ($balance - $this->low) / $this->span), 1);
    }
}
