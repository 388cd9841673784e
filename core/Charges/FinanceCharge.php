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
     * What was open from each day on.
     *
     * @param int $original minor units
     * @param list<array{string, int, bool}> $moves ISO day, what was applied on it (an undo gives it back), and whether the money of it
     *                                              bounced; rising days
     * @param bool $bouncedCounts whether money that bounced lowers what was open until it bounced; else it never came
     *
     * @return non-empty-array<string, int> as on() takes it
     */
    public static function openFrom(Day $posted, int $original, array $moves, bool $bouncedCounts): array
    {
        $open = $original;
        $from = [$posted->iso() => $open];
        foreach ($moves as [$day, $applied, $bounced]) {
            if ($bouncedCounts || !$bounced) {
                $open -= $applied;
                $from[$day] = $open;
            }
        }
        ksort($from);

        return $from;
    }

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
        $unitDays = BigRational::zero();
        foreach (self::spans($openFrom, $due, $through, $graceDays, $chargedThrough) as $span) {
            $unitDays = $unitDays->plus(BigRational::of($span['open'])->multipliedBy($span['days']));
        }

        return Rounding::toInt($unitDays->multipliedBy($yearlyRate)->dividedBy(36500));
    }

    /**
     * The working: each span of constant open amount that is charged, in order; none while within grace.
     *
     * @param array<string, int> $openFrom as for on()
     *
     * @return list<array{after: string, through: string, days: int, open: int}> from the day after $after through $through
     */
    public static function spans(
        array $openFrom,
        Day $due,
        Day $through,
        int $graceDays = 0,
        ?Day $chargedThrough = null,
    ): array {
        if ($due->daysUntil($through) <= $graceDays) {
            return [];
        }
        $start = null !== $chargedThrough && $chargedThrough->isAfter($due) ? $chargedThrough : $due;
        $days = array_keys($openFrom);
        $spans = [];
        foreach ($days as $k => $iso) {
            $from = Day::latest($start, Day::of($iso));
            $to =
                isset($days[$k + 1]) && Day::of($days[$k + 1])->isBefore($through) ? Day::of($days[$k + 1]) : $through;
            $span = $from->daysUntil($to);
            if ($span > 0 && 0 !== $openFrom[$iso]) {
                $spans[] = [
                    'after' => $from->iso(),
                    'through' => $to->iso(),
                    'days' => $span,
                    'open' => $openFrom[$iso],
                ];
            }
        }

        return $spans;
    }
}
