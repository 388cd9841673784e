<?php

declare(strict_types=1);

namespace Nelbix\Core\Terms;

use Brick\Math\BigDecimal;
use Brick\Math\BigRational;
use Brick\Math\RoundingMode;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Money\Rounding;

/**
 * The early-payment discount on one open item.
 * T the total, O what is open, F = round(base × percent), L = round(F × O / T). Source: rules.md, Payment terms;
 * the yearly yield is the textbook formula d / (1 − d) × 365 / days.
 */
final readonly class EarlyDiscount
{
    /**
     * @param int $total T, minor units, positive
     * @param int $base what the percent applies to, minor units
     * @param list<DatedDiscount> $steps earliest first
     * @param int $graceDays days a payment may be late and still keep the step
     */
    public function __construct(public int $total, public int $base, public array $steps, public int $graceDays = 0)
    {
    }

    /** The first step whose date plus grace is not before the payment date; null when none is left. */
    public function stepOn(Day $paid): ?DatedDiscount
    {
        foreach ($this->steps as $step) {
            if (!$step->through->plusDays($this->graceDays)->isBefore($paid)) {
                return $step;
            }
        }

        return null;
    }

    /** L: the discount on paying all of $open on $paid, minor units; 0 when no step holds. */
    public function onFull(int $open, Day $paid): int
    {
        $step = $this->stepOn($paid);

        return null === $step ? 0 : $this->gives($step, $open);
    }

    /**
     * The most discount that settling $applied of $open may hold: what a payment of the rest would earn by onPayment(), so that
     * many small payments never earn more than one.
     *
     * @param int $open O, minor units, positive
     * @param int $applied gross, between zero and $open
     */
    public function most(int $open, int $applied, Day $paid): int
    {
        $full = $this->onFull($open, $paid);
        $step = $this->stepOn($paid);
        if ($applied >= $open || 0 === $full || null === $step) {
            return $applied >= $open ? $full : 0;
        }
        // g = round(p / (1 − r)) holds from p = (g − ½) × (1 − r) on
        $least = BigRational::of($applied)
            ->minus(BigRational::nd(1, 2))
            ->multipliedBy(BigRational::one()->minus($this->r($step)));

        return max(0, min($full, $applied - $least->toScale(0, RoundingMode::CEILING)->toInt()));
    }

    /** What settling $applied of $open would have earned in time: the first step's discount, once it is lapsed on $paid; else 0. */
    public function lapsed(int $open, int $applied, Day $paid): int
    {
        $first = $this->steps[0] ?? null;

        return null === $first || null !== $this->stepOn($paid) ? 0 : $this->most($open, $applied, $first->through);
    }

    /**
     * What is lost when its days pass: on the day after each step, grace included, what was open then times what that step gave more than
     * the next one. Source: rules.md, Figures over a span.
     *
     * @param \Closure(Day): int $openAt what is open, minor units, when that day begins
     *
     * @return list<array{day: Day, amount: int}> in the order of the steps, without those that lose nothing
     */
    public function lapses(\Closure $openAt): array
    {
        $lapses = [];
        foreach ($this->steps as $k => $step) {
            $day = $step->through->plusDays($this->graceDays + 1);
            $open = max(0, $openAt($day));
            $next = $this->steps[$k + 1] ?? null;
            $amount = $this->gives($step, $open) - (null === $next ? 0 : $this->gives($next, $open));
            if ($amount > 0) {
                $lapses[] = ['day' => $day, 'amount' => $amount];
            }
        }

        return $lapses;
    }

    /** L of one step, whatever day it is. */
    private function gives(DatedDiscount $step, int $open): int
    {
        return 0 === $this->total
            ? 0
            : min($open, Rounding::proportion(Rounding::percent($this->base, $step->percent), $open, $this->total));
    }

    /** The last day of the first step, grace included; null when there is none. */
    public function lastDay(): ?Day
    {
        return ($this->steps[0] ?? null)?->through->plusDays($this->graceDays);
    }

    /**
     * The discount once a credit note that names the invoice took its part: base and total are lower by the credit's own.
     *
     * @param int $total of the credit as far as it was set off here, minor units, positive
     * @param int $base of that part
     */
    public function lowered(int $total, int $base): self
    {
        return new self(max(0, $this->total - $total), max(0, $this->base - $base), $this->steps, $this->graceDays);
    }

    /**
     * What a payment of $payment settles, with the discount in it.
     *
     * @param int $open O, minor units, positive
     * @param int $payment p, minor units, not negative
     *
     * @return array{settled: int, discount: int} settled = payment used + discount, never above $open
     */
    public function onPayment(int $open, int $payment, Day $paid): array
    {
        $full = $this->onFull($open, $paid);
        if ($payment >= $open - $full) {
            return ['settled' => $open, 'discount' => max(0, $open - $payment)];
        }
        $step = $this->stepOn($paid);
        if (null === $step || 0 === $full) {
            return ['settled' => $payment, 'discount' => 0];
        }
        $settled = Rounding::toInt(BigRational::of($payment)->dividedBy(BigRational::one()->minus($this->r($step))));
        $discount = min($settled - $payment, $full);

        return ['settled' => $payment + $discount, 'discount' => $discount];
    }

    /** r: the part of a gross amount that is discount, exact. */
    private function r(DatedDiscount $step): BigRational
    {
        return $step->percent->toBigRational()->dividedBy(100)->multipliedBy($this->base)->dividedBy($this->total);
    }

    /**
     * Yearly yield of taking a discount of $percent by paying $days before the due date, in percent with two digits;
     * null when there are no days between (it ranks first).
     */
    public static function yearlyYield(BigDecimal $percent, int $days): ?BigDecimal
    {
        if ($days <= 0) {
            return null;
        }
        $d = $percent->toBigRational()->dividedBy(100);

        return $d
            ->dividedBy(BigRational::one()->minus($d))
            ->multipliedBy(365)
            ->dividedBy($days)
            ->multipliedBy(100)
            ->toScale(2, RoundingMode::HALF_UP);
    }
}
