<?php

declare(strict_types=1);

namespace Nelbix\App\Close\Outlook;

use Nelbix\App\Platform\Company;
use Nelbix\Core\Aging\CashFlow;
use Nelbix\Core\Aging\CashOutlook;
use Nelbix\Core\Aging\Lateness;
use Nelbix\Core\Calendar\Day;

/** The outlook of a company by week: the bank's balance, what is expected to come and to go, and what moving a payment would do. */
final readonly class Outlook
{
    public function __construct(
        private RunningMoney $running,
        private OpenMoney $open,
        private PlannedMoney $planned,
        private Habits $habits,
    ) {
    }

    /** The last day of an outlook of so many weeks. */
    public static function last(Day $today, int $weeks): Day
    {
        return CashOutlook::monday($today)->plusDays(7 * $weeks - 1);
    }

    public function of(Company $company, Day $today, int $weeks, WhatIf $whatIf): SeenOutlook
    {
        $last = self::last($today, $weeks);
        $banks = $this->running->balances($company->id(), $today);
        $opening = array_sum(array_column($banks, 'balance'));
        $runs = $this->running->runs($company->id());
        $flows = $plain = $unknown = [];
        $beyond = 0;
        foreach ($this->expected($company, $today, $last, $whatIf, $runs, null) as $e) {
            if ($e->isUnknown()) {
                $unknown[$e->name] = $e->name;
                continue;
            }
            $flows[] = $e->flow;
            $plain[] = $e->plain();
            $beyond += $e->flow->usual->isAfter($last) ? $e->flow->amount : 0;
        }

        return new SeenOutlook(
            CashOutlook::of($opening, $today, $weeks, $flows),
            CashOutlook::of($opening, $today, $weeks, $plain),
            $banks,
            $opening,
            $runs,
            $beyond,
            array_values($unknown),
        );
    }

    /** @return list<Expected> what stands behind one kind in one week, the largest first */
    public function behind(
        Company $company,
        Day $today,
        int $weeks,
        WhatIf $whatIf,
        OutlookKind $kind,
        int $week,
    ): array {
        $runs = $this->running->runs($company->id());
        $found = [];
        foreach ($this->expected($company, $today, self::last($today, $weeks), $whatIf, $runs, $kind) as $e) {
            if ($e->flow->kind === $kind->value && CashOutlook::week($today, $e->flow->usual) === $week) {
                $found[] = $e;
            }
        }
        usort($found, static fn (Expected $a, Expected $b): int => abs($b->flow->amount) <=> abs($a->flow->amount));

        return $found;
    }

    /**
     * @param list<PlannedRun> $runs
     * @param OutlookKind|null $only what is asked for item by item; null for all, summed
     *
     * @return iterable<Expected>
     */
    private function expected(
        Company $company,
        Day $today,
        Day $last,
        WhatIf $whatIf,
        array $runs,
        ?OutlookKind $only,
    ): iterable {
        $is = static fn (OutlookKind ...$kinds): bool => null === $only || \in_array($only, $kinds, true);
        if ($is(OutlookKind::Posted, OutlookKind::OnHand)) {
            yield from $this->running->posted($company->id(), $today);
        }
        $habits = $is(OutlookKind::Customers, OutlookKind::RecurringIn)
            ? $this->habits->of($company->id(), $today)
            : [0 => new Lateness(0, 0, 0, 0)];
        if ($is(OutlookKind::Customers)) {
            yield from $this->open->customers($company->id(), $today, $habits, null !== $only);
        }
        if ($is(OutlookKind::Vendors)) {
            yield from $this->open->vendors($company->id(), $today, $whatIf, null !== $only);
        }
        foreach ($is(OutlookKind::Runs) ? $runs : [] as $run) {
            $plain = Day::latest($today, $run->day);
            $day = $whatIf->run($run->id, $plain);
            yield new Expected(
                new CashFlow(OutlookKind::Runs->value, -$run->amount, $day),
                'proposal',
                $run->id,
                $run->number,
                due: $run->day,
                why: str_replace('_', ' ', $run->state),
                was: $day->equals($plain) ? null : $plain,
            );
        }
        if ($is(OutlookKind::RecurringIn, OutlookKind::RecurringOut)) {
            yield from $this->planned->recurring($company, $today, $last, $habits[0]);
        }
        if ($is(OutlookKind::Orders)) {
            yield from $this->planned->orders($company, $today);
        }
    }
}
