<?php

declare(strict_types=1);

namespace Nelbix\App\Invoices;

use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Ledger\Side;

/**
 * What a document led to, drawn on a true axis of days in four lanes. What is owed is a band as wide as the open amount, which
 * narrows where something was set off; a ribbon of that width leads to the money or credit that did it.
 *
 * @phpstan-type Mark array{id: int, number: string, kind: string, day: string, x: float, y: float, own: bool, side: string,
 *     amount: int, currency: string, word: string}
 */
final readonly class Trail
{
    public const WIDTH = 860;

    private const LEFT = 70;

    public function __construct(private TrailDocuments $near, private GoodsTrail $goods)
    {
    }

    /**
     * @param list<int> $of documents whose trail it is
     * @param list<Side> $sides that may be seen
     *
     * @return array{marks: list<Mark>, bands: list<array{path: string, title: string}>, ribbons: list<array{path: string,
     *     title: string, gone: bool, entry: string}>, days: list<array{x: float, label: string}>, lanes: array<string, int>, height: int,
     *     goods: list<array{path: string, title: string, route: string, id: int, number: string, x: float, y: float}>, cut: bool}
     */
    public function of(int $companyId, array $of, array $sides, Day $today): array
    {
        ['documents' => $documents, 'settled' => $settled, 'cut' => $cut] = $this->near->of($companyId, $of, $sides);
        if ([] === $documents) {
            return [
                'marks' => [],
                'bands' => [],
                'ribbons' => [],
                'days' => [],
                'lanes' => [],
                'goods' => [],
                'height' => 0,
                'cut' => false,
            ];
        }
        $payables = array_keys(array_filter($documents, static fn (array $d): bool => 'payables' === $d['side']));
        $goods = [] === $payables ? [] : $this->goods->of($payables);
        $dates = [
            ...array_map(static fn (array $d): string => (string) $d['document_date'], $documents),
            ...array_map(static fn (array $d): string => (string) $d['posting_date'], $documents),
            ...array_map(static fn (array $r): string => (string) $r['settled_on'], $settled),
            ...array_column($goods, 'from'),
        ];
        if ([] !== array_filter(array_map(static fn (array $d): int => (int) $d['open'], $documents))) {
            $dates[] = $today->iso();
        }
        sort($dates);
        $first = Day::of($dates[0]);
        $end = Day::of($dates[\count($dates) - 1]);
        $span = max(1, $first->daysUntil($end));
        $x = static fn (string $iso): float => round(
            self::LEFT + ((self::WIDTH - self::LEFT - 120) * $first->daysUntil(Day::of($iso))) / $span,
            1,
        );
        $most = max(1, ...array_map(static fn (array $d): int => abs((int) $d['original']), array_values($documents)));
        $thick = static fn (int $amount): float => round(max(1.5, (26 * abs($amount)) / $most), 1);
        $owing = array_filter($documents, static fn (array $d): bool => (int) $d['original'] > 0);
        $in = static fn (string $lane): array => array_values(
            array_filter($goods, static fn (array $g): bool => $g['lane'] === $lane),
        );
        $agreed = GoodsTrail::bands($in('agreed'), 14.0, $x, $thick);
        $arrived = GoodsTrail::bands($in('arrived'), max(38.0, $agreed['end'] + 4), $x, $thick);
        $owedAt = max(72, (int) ceil($arrived['end']) + 18);
        $lanes = [
            'agreed' => 14,
            'arrived' => (int) max(38, $agreed['end'] + 4),
            'owed' => $owedAt,
            'paid' => $owedAt + 16 + 42 * max(1, \count($owing)),
        ];

        $marks = $bands = $ribbons = $at = $used = [];
        $row = ['owed' => 0, 'paid' => 0];
        foreach ($documents as $id => $d) {
            $name = isset($owing[$id]) ? 'owed' : 'paid';
            $at[$id] = ['x' => $x((string) $d['posting_date']), 'y' => $lanes[$name] + 42.0 * $row[$name]++];
            $mark = static fn (float $mx, float $my, string $word): array => [
                'id' => $id,
                'number' => (string) $d['number'],
                'kind' => (string) $d['kind'],
                'day' => (string) $d['posting_date'],
                'x' => $mx,
                'y' => $my,
                'own' => \in_array($id, $of, true),
                'side' => (string) $d['side'],
                'amount' => (int) $d['total'],
                'currency' => (string) $d['currency'],
                'word' => $word,
            ];
            if (isset($owing[$id])) {
                $marks[] = $mark($x((string) $d['document_date']), 0.0 + $lanes['arrived'], 'its paper');
                $bands[] = [
                    'path' => $this->band($d, $id, $settled, $x, $thick, $at[$id]['y'], $today),
                    'title' => $d['number'].', owed',
                ];
            }
            $marks[] = $mark($at[$id]['x'], $at[$id]['y'], '');
        }
        // the items of a transfer add up to nothing, and one of them is settled here all the same
        $left = array_map(static fn (array $d): int => max(0, (int) $d['original']), $documents);
        $bySettlement = [];
        foreach ($settled as $r) {
            $bySettlement[(int) $r['id']][] = $r;
        }
        foreach ($bySettlement as $rows) {
            $here = array_values(array_filter($rows, static fn (array $r): bool => isset($at[(int) $r['document_id']])));
            $money = array_values(array_filter($here, static fn (array $r): bool => (int) $r['applied'] < 0));
            $offset = 0.0;
            foreach (array_filter($here, static fn (array $r): bool => (int) $r['applied'] > 0) as $o) {
                $owed = (int) $o['document_id'];
                $take = (int) $o['applied'];
                foreach ($money as $k => $m) {
                    $amount = min($take, -(int) $m['applied'] - ($used[(int) $m['id']][$k] ?? 0));
                    if ($amount <= 0) {
                        continue;
                    }
                    $used[(int) $m['id']][$k] = ($used[(int) $m['id']][$k] ?? 0) + $amount;
                    $take -= $amount;
                    $w = $thick($amount);
                    // it leaves at the lower edge of the band and turns down to the money
                    $y1 = $at[$owed]['y'] + (null === $o['undone_on'] ? max(0, $thick($left[$owed]) - $w) : 0);
                    [$x1, $to] = [$x((string) $o['settled_on']), $at[(int) $m['document_id']]];
                    $x2 = $x1 + 10 + $offset;
                    $offset += $w + 1.5;
                    $ribbons[] = [
                        'path' => \sprintf(
                            'M%.1f %.1fH%.1fQ%.1f %.1f %.1f %.1fV%.1fH%.1fV%.1fQ%.1f %.1f %.1f %.1fH%.1fZ',
                            $x1,
                            $y1,
                            $x2,
                            $x2 + $w,
                            $y1,
                            $x2 + $w,
                            $y1 + $w,
                            $to['y'] + 4,
                            $x2,
                            $y1 + $w + 2,
                            $x2,
                            $y1 + $w,
                            $x2 - 2,
                            $y1 + $w,
                            $x1,
                        ),
                        'title' => \sprintf(
                            '%s to %s on %s%s',
                            $documents[$owed]['number'],
                            $documents[(int) $m['document_id']]['number'],
                            Day::of((string) $o['settled_on'])->long(),
                            null === $o['undone_on'] ? '' : ', undone '.Day::of((string) $o['undone_on'])->long(),
                        ),
                        'gone' => null !== $o['undone_on'],
                        'entry' => (string) $o['entry'],
                    ];
                    $ribbons[] = [
                        'path' => \sprintf(
                            'M%.1f %.1fH%.1fV%.1fH%.1fZ',
                            $to['x'],
                            $to['y'] - 1,
                            $x2 + $w,
                            $to['y'] + 4,
                            $to['x'],
                        ),
                        'title' => (string) $documents[(int) $m['document_id']]['number'],
                        'gone' => null !== $o['undone_on'],
                        'entry' => (string) $o['entry'],
                    ];
                    $left[$owed] -= null === $o['undone_on'] ? $amount : 0;
                }
            }
        }
        $days = array_map(
            static fn (string $iso): array => ['x' => $x($iso), 'label' => substr(Day::of($iso)->long(), 0, -5)],
            array_values(
                array_unique([
                    $first->iso(),
                    ...array_map(
                        static fn (array $r): string => (string) $r['settled_on'],
                        \array_slice($settled, 0, 1),
                    ),
                    $end->iso(),
                ]),
            ),
        );

        return [
            'marks' => $marks,
            'bands' => $bands,
            'ribbons' => $ribbons,
            'goods' => [...$agreed['bands'], ...$arrived['bands']],
            'days' => $days,
            'lanes' => $lanes,
            'height' => $lanes['paid'] + 42 * max(1, $row['paid']) + 14,
            'cut' => $cut,
        ];
    }

    /**
     * The band of what is owed: as wide as it was open from one settlement to the next, until it is settled or today.
     *
     * @param array<string, mixed> $d
     * @param list<array<string, mixed>> $settled
     * @param \Closure(string): float $x
     * @param \Closure(int): float $thick
     */
    private function band(array $d, int $id, array $settled, \Closure $x, \Closure $thick, float $y, Day $today): string
    {
        $changes = [];
        foreach ($settled as $r) {
            if ((int) $r['document_id'] === $id) {
                $changes[(string) $r['settled_on']] = ($changes[(string) $r['settled_on']] ?? 0) - (int) $r['applied'];
                if (null !== $r['undone_on']) {
                    $changes[(string) $r['undone_on']] =
                        ($changes[(string) $r['undone_on']] ?? 0) + (int) $r['applied'];
                }
            }
        }
        ksort($changes);
        $open = (int) $d['original'];
        $path = \sprintf('M%.1f %.1f', $x((string) $d['posting_date']), $y);
        $back = '';
        $from = $x((string) $d['posting_date']);
        foreach ([...$changes, 'end' => 0] as $day => $change) {
            $to = max(
                $from,
                'end' === $day
                    ? (0 === $open
                        ? $from
                        : $x(max($today->iso(), (string) $d['posting_date'])))
                    : $x((string) $day),
            );
            $w = 0 === $open ? 0.0 : $thick($open);
            $back = \sprintf('L%.1f %.1fL%.1f %.1f', $to, $y + $w, $from, $y + $w).$back;
            $from = $to;
            $open += $change;
        }

        return $path.\sprintf('L%.1f %.1f', $from, $y).$back.'Z';
    }
}
