<?php

declare(strict_types=1);

namespace Nelbix\Core\Charges;

use Brick\Math\BigDecimal;
use Brick\Math\BigRational;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Money\Rounding;

/** Simple interest on an overdue invoice, actual/365, rounded once. Source: rules.md, Finance charges. */
final class FinanceCharge
{
    /**
     * @param array<string, int> $openFrom open amount from each ISO day on, rising days, minor units; the first may lie before $due
     * @param Day|null $chargedThrough last day already charged
     *
     * @return int minor units; 0 while within grace
     */
    public static function on(
        array $openFrom,
        Day $due,
        Day $through,
        BigDecimal|string $yearlyRate,
        int $graceDays = 0,
        ?Day $chargedThrough = null,
    ): int {
        if ($due->daysUntil($through) <= $graceDays) {
            return 0;
        }
        $start = null !== $chargedThrough && $chargedThrough->isAfter($due) ? $chargedThrough : $due;
        $days = array_keys($openFrom);
        $unitDays = BigRational::zero();
        foreach ($days as $k => $iso) {
            $from = Day::latest($start, Day::of($iso));
            $to =
                isset($days[$k + 1]) && Day::of($days[$k + 1])->isBefore($through) ? Day::of($days[$k + 1]) : $through;
            $span = $from->daysUntil($to);
            if ($span > 0) {
                $unitDays = $unitDays->plus(BigRational::of($openFrom[$iso])->multipliedBy($span));
            }
        }

        return Rounding::toInt($unitDays->multipliedBy($yearlyRate)->dividedBy(36500));
    }
}
