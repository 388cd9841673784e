<?php

declare(strict_types=1);

namespace Nelbix\Core\Aging;

use Nelbix\Core\Calendar\Day;

/** Spreads what is open over age buckets. The sum of all totals is the sum of what went in. Source: rules.md, Aging. */
final class Ager
{
    /**
     * @param iterable<AgingSum> $sums
     *
     * @return array<int|string, AgingRow> by key, in the order in which keys first appear
     */
    public static function age(iterable $sums, Day $asOf, Bucketing $bucketing, Credits $credits = Credits::Own): array
    {
        $empty = array_fill(0, $bucketing->count(), 0);
        $index = []; // few distinct dates, many sums
        $acc = [];
        foreach ($sums as $sum) {
            $acc[$sum->key] ??= ['not_due' => 0, 'buckets' => $empty, 'credits' => 0, 'prepayments' => 0];
            $row = &$acc[$sum->key];
            if (!$credits->nets($sum->class)) {
                $row[AgingSum::PREPAYMENT === $sum->class ? 'prepayments' : 'credits'] += $sum->amount;
            } else {
                $k = $index[$sum->date] ??= $bucketing->indexOf(Day::of($sum->date), $asOf);
                if ($k < 0) {
                    $row['not_due'] += $sum->amount;
                } else {
                    $row['buckets'][$k] += $sum->amount;
                }
            }
            unset($row);
        }

        $rows = [];
        foreach ($acc as $key => $r) {
            $rows[$key] = new AgingRow(
                $key,
                $r['not_due'],
                array_values($r['buckets']),
                $r['credits'],
                $r['prepayments'],
            );
        }

        return $rows;
    }
}
