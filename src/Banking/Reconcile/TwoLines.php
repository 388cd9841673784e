<?php

declare(strict_types=1);

namespace Nelbix\App\Banking\Reconcile;

use Symfony\Component\DependencyInjection\Attribute\Exclude;

/** The bank's and the ledger's balance by day as two step lines with what lies between them, in a box of 840 by 150. */
#[Exclude]
final readonly class TwoLines
{
    private const WIDTH = 820;
    private const HEIGHT = 120;

    /** @param list<array{x: float, label: string}> $days */
    private function __construct(
        public string $bank,
        public string $ledger,
        public string $between,
        public array $days,
    ) {
    }

    /** @param non-empty-list<array{day: string, bank: int, ledger: int}> $rows by day */
    public static function of(array $rows): self
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

        return new self($paths['bank'], $paths['ledger'], $between, $days);
    }
}
