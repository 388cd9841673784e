<?php

declare(strict_types=1);

namespace Nelbix\Core\Aging;

use Nelbix\Core\Calendar\Day;

/** Spreads what is open over age buckets. The sum of all totals is the sum of what went in. Source: rules.md, Aging. */
final class Ager
{
    /**
     * @param iterable<AgingSum> $sums
     * @param bool $netCredits credits and unapplied money by their own date instead of a column of their own
     *
     * @return array<int, AgingRow> by party, in the order in which parties first appear
     */
    public static function age(iterable $sums, Day $asOf, Bucketing $bucketing, bool $netCredits = false): array
    {
        $empty = array_fill(0, \count($bucketing->limits) + 1, 0);
        $index = []; // few distinct dates, many sums
        $acc = [];
        foreach ($sums as $sum) {
            $acc[$sum->party] ??= ['not_due' => 0, 'buckets' => $empty, 'credits' => 0, 'prepayments' => 0];
            $row = &$acc[$sum->party];
            if (AgingSum::PREPAYMENT === $sum->class) {
                $row['prepayments'] += $sum->amount;
            } elseif (AgingSum::CREDIT === $sum->class && !$netCredits) {
                $row['credits'] += $sum->amount;
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
        foreach ($acc as $party => $r) {
            $rows[$party] = new AgingRow(
                $party,
                $r['not_due'],
                array_values($r['buckets']),
                $r['credits'],
                $r['prepayments'],
            );
        }

        return $rows;
    }
}
