<?php

declare(strict_types=1);

namespace Nelbix\App\Banking\Reconcile;

use Symfony\Component\DependencyInjection\Attribute\Exclude;

/** The bank's and the ledger's balance by day as two step lines with what lies between them, in a box of 840 by 200. */
#[Exclude]
final readonly class TwoLines
{
    private const WIDTH = 820;
    private const HEIGHT = 120;
    private const SPANS = 10;

    /**
     * @param list<array{x: float, label: string}> $days
     * @param list<array{x: float, y: int, number: string}> $spans of what is on the way, from its day in the ledger to the edge
     */
    private function __construct(
        public string $bank,
        public string $ledger,
        public string $between,
        public array $days,
        public array $spans,
    ) {
    }

    /**
     * @param non-empty-list<array{day: string, bank: int, ledger: int}> $rows by day
     * @param list<array{number: string, day: string, party: string, amount: int, check: string}> $onTheWay
     */
    public static function of(array $rows, array $onTheWay = []): self
    {
        $all = [...array_column($rows, 'bank'), ...array_column($rows, 'ledger')];
        $low = min($all);
        $span = max(1, max($all) - $low);
        $step = self::WIDTH / max(1, \count($rows));
        $y = static fn (int $balance): float => round(8 + self::HEIGHT - (self::HEIGHT * ($balance - $low)) / $span, 1);
        $paths = [];
        foreach (['bank', 'ledger'] as $which) {
            $path = '';
            foreach ($rows as $k => $r) {
                $x = round(10 + $k * $step, 1);
                $path .= (0 === $k ? 'M' : 'L').$x.' '.$y($r[$which]).'H'.round($x + $step, 1);
            }
            $paths[$which] = str_replace('L', 'V', (string) preg_replace('/L[\d.]+ /', 'L', $path));
        }
        $between = '';
        foreach ($rows as $k => $r) {
            [$x, $a, $b] = [round(10 + $k * $step, 1), $y($r['bank']), $y($r['ledger'])];
            $between .= $a === $b ? '' : \sprintf('M%s %sH%sV%sH%sZ', $x, $a, round($x + $step, 1), $b, $x);
        }
        $days = [];
        foreach ($rows as $k => $r) {
            if (0 === $k % 7) {
                $days[] = ['x' => round(10 + $k * $step, 1), 'label' => $r['day']];
            }
        }

        $places = array_flip(array_column($rows, 'day'));
        // the largest ones: more would be a hatching of its own
        usort($onTheWay, static fn (array $a, array $b): int => abs($b['amount']) <=> abs($a['amount']));
        $spans = [];
        foreach (\array_slice($onTheWay, 0, self::SPANS) as $k => $r) {
            $spans[] = [
                'x' => round(10 + ($places[$r['day']] ?? 0) * $step, 1),
                'y' => self::HEIGHT + 16 + 5 * $k,
                'number' => $r['number'],
            ];
        }

        return new self($paths['bank'], $paths['ledger'], $between, $days, $spans);
    }
}
