<?php

declare(strict_types=1);

namespace Nelbix\Core\Proposal;

use Brick\Math\BigRational;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Ledger\DocumentKind;

/** Decides what a payment run pays and says why for each item. Deterministic. Source: rules.md, Payment proposal. */
final class Proposer
{
    /**
     * Candidates are taken one at a time and only what may be paid stays in memory, so that very many that are not due cost little.
     *
     * @param iterable<Candidate> $candidates
     * @param (\Closure(Decision): bool)|null $keep is shown each decision that is out once it is final, and says whether the result
     *                                              is to hold it; all are held when there is none
     */
    public static function propose(Criteria $criteria, iterable $candidates, ?\Closure $keep = null): ProposalResult
    {
        $in = $order = $prepayments = [];
        $out = new LeftOut($keep);
        $n = 0;
        foreach ($candidates as $candidate) {
            $d = self::first($criteria, $candidate);
            if ($candidate->isPrepayment && $criteria->names($candidate->payee)) {
                $prepayments[] = $candidate;
            }
            $order[$candidate->item->id] = ++$n;
            if ($d->in) {
                $in[$candidate->item->id] = $d;
            } else {
                $out->add($d, $n);
            }
        }
        $payments = [];
        foreach (self::groups($in) as $group) {
            [$made, $changed] = self::payments($criteria, $group);
            array_push($payments, ...$made);
            foreach ($changed as $d) {
                $out->add($d, $order[$d->candidate->item->id]);
                unset($in[$d->candidate->item->id]);
            }
        }
        usort(
            $payments,
            static fn (ProposedPayment $a, ProposedPayment $b): int => [
                $a->payee->code,
                $a->earliestDue(),
                $a->decisions[0]->candidate->item->id,
            ] <=> [$b->payee->code, $b->earliestDue(), $b->decisions[0]->candidate->item->id],
        );
        if (null !== $criteria->cash) {
            [$payments, $over] = self::withinCash($criteria, $payments);
            foreach ($over as $payment) {
                foreach ($payment->decisions as $d) {
                    $out->add($d->out(Reason::OverCash), $order[$d->candidate->item->id]);
                    unset($in[$d->candidate->item->id]);
                }
            }
        }

        // what is to be settled first concerns those that are paid
        $paid = array_column(array_column($payments, 'payee'), 'id', 'id');
        $prepayments = array_values(
            array_filter($prepayments, static fn (Candidate $c): bool => isset($paid[$c->payee->id])),
        );

        return new ProposalResult(array_values($in), $out->kept(), $payments, $prepayments, $out->count, $out->lost);
    }

    private static function first(Criteria $c, Candidate $candidate): Decision
    {
        $item = $candidate->item;
        $discount = $item->discountOn($c->payDate);
        $stake = max(0, $discount - $item->discountOn($c->againOn));
        $payee = $candidate->payee;
        $due = !$item->due->isAfter($c->dueThrough);
        $out = match (true) {
            $candidate->held => Reason::Held,
            $payee->stopped => Reason::Stopped,
            $item->currency !== $c->currency => Reason::OtherCurrency,
            [] !== $c->methods && !\in_array($payee->method, $c->methods, true) => Reason::OtherMethod,
            !$c->names($payee) => Reason::Filtered,
            null !== $candidate->reservedBy => Reason::Reserved,
            $candidate->awaitingApproval => Reason::AwaitingApproval,
            $item->posted->isAfter($c->payDate) => Reason::PostedLater,
            // money that a vendor gave back waits for its credit note; no run pays it out again
            $candidate->isPrepayment, DocumentKind::Refund === $item->kind => Reason::CreditsCover,
            $item->open > 0 && !$due && 0 === $stake => Reason::NotDue,
            !$payee->bankDetailsReady => Reason::BankDetails,
            default => null,
        };
        if (null !== $out) {
            return new Decision($candidate, false, $out, 0, $stake);
        }
        $in = match (true) {
            $item->open < 0 => Reason::Credit,
            $item->due->isBefore($c->payDate) => Reason::Overdue,
            $due => Reason::Due,
            default => Reason::DiscountAtStake,
        };

        return new Decision($candidate, true, $in, $discount, $stake);
    }

    /**
     * @param array<int, Decision> $decisions
     *
     * @return array<string, non-empty-list<Decision>> what is in, per payee and group; a customer may bear a vendor's code
     */
    private static function groups(array $decisions): array
    {
        $groups = [];
        foreach ($decisions as $d) {
            if ($d->in) {
                $groups[$d->candidate->payee->id.'|'.$d->candidate->payee->method][] = $d;
            }
        }

        return $groups;
    }

    /**
     * @param non-empty-list<Decision> $group
     *
     * @return array{list<ProposedPayment>, list<Decision>} payments, and decisions that changed to out
     */
    private static function payments(Criteria $c, array $group): array
    {
        $payee = $group[0]->candidate->payee;
        $invoices = array_values(array_filter($group, static fn (Decision $d): bool => $d->candidate->item->open > 0));
        $credits = array_values(array_filter($group, static fn (Decision $d): bool => $d->candidate->item->open < 0));
        if ([] === $invoices) {
            return [[], array_map(static fn (Decision $d): Decision => $d->out(Reason::NothingToSetAgainst), $credits)];
        }
        $out = [];
        $sets =
            $payee->separatePayments || $c->perInvoice
                ? self::spread($invoices, $credits, $out)
                : [[...$invoices, ...$credits]];
        $payments = [];
        foreach ($sets as $set) {
            $payment = new ProposedPayment($payee, $set);
            $amount = $payment->amount();
            $reason = $amount <= 0 ? Reason::CreditsCover : ($amount < $c->smallest ? Reason::BelowSmallest : null);
            if (null === $reason) {
                $payments[] = $payment;
                continue;
            }
            foreach ($set as $d) {
                $out[] = $d->out($reason);
            }
        }

        return [$payments, $out];
    }

    /**
     * One payment per invoice: each credit goes to the first payment that stays above zero with it.
     *
     * @param non-empty-list<Decision> $invoices
     * @param list<Decision> $credits
     * @param list<Decision> $out credits that fit nowhere
     *
     * @return list<non-empty-list<Decision>>
     */
    private static function spread(array $invoices, array $credits, array &$out): array
    {
        $sets = array_map(static fn (Decision $d): array => [$d], $invoices);
        foreach ($credits as $credit) {
            foreach ($sets as $k => $set) {
                if (array_sum(array_map(static fn (Decision $d): int => $d->pay(), $set)) + $credit->pay() > 0) {
                    $sets[$k][] = $credit;
                    continue 2;
                }
            }
            $out[] = $credit->out(Reason::CreditsCover);
        }

        return $sets;
    }

    /**
     * @param list<ProposedPayment> $payments
     *
     * @return array{list<ProposedPayment>, list<ProposedPayment>} what fits, what does not
     */
    private static function withinCash(Criteria $c, array $payments): array
    {
        $ranked = $payments;
        usort($ranked, static function (ProposedPayment $a, ProposedPayment $b) use ($c): int {
            return $a->payee->ifPaidLate->rank() <=> $b->payee->ifPaidLate->rank() ?:
                self::yieldOf($b, $c->payDate)->compareTo(self::yieldOf($a, $c->payDate)) ?:
                [$a->earliestDue(), $a->payee->code] <=> [$b->earliestDue(), $b->payee->code];
        });
        $left = (int) $c->cash;
        $fits = [];
        foreach ($ranked as $payment) {
            if ($payment->amount() <= $left) {
                $left -= $payment->amount();
                $fits[spl_object_id($payment)] = true;
            }
        }

        return [
            array_values(
                array_filter($payments, static fn (ProposedPayment $p): bool => isset($fits[spl_object_id($p)])),
            ),
            array_values(
                array_filter($payments, static fn (ProposedPayment $p): bool => !isset($fits[spl_object_id($p)])),
            ),
        ];
    }

    /** The highest yearly yield of a discount at stake among the payment's items; a discount with no days to gain ranks first. */
    private static function yieldOf(ProposedPayment $payment, Day $payDate): BigRational
    {
        $best = BigRational::zero();
        foreach ($payment->decisions as $d) {
            $item = $d->candidate->item;
            $step = $d->stake > 0 ? $item->discount?->stepOn($payDate) : null;
            if (null === $step) {
                continue;
            }
            $yield = \Nelbix\Core\Terms\EarlyDiscount::yearlyYield(
                $step->percent,
                $step->through->daysUntil($item->due),
            );
            $yield = null === $yield ? BigRational::of('1000000000') : $yield->toBigRational();
            $best = $yield->isGreaterThan($best) ? $yield : $best;
        }

        return $best;
    }
}
