<?php

declare(strict_types=1);

namespace Nelbix\App\Invoices\Why;

use Nelbix\App\Codes\CodeBook;
use Nelbix\App\Invoices\InvoiceInput;
use Nelbix\App\Invoices\InvoicePlan;
use Nelbix\App\Platform\Actor;
use Nelbix\App\Platform\BooksDay;
use Nelbix\Core\Terms\ScheduledPart;
use Nelbix\Core\Terms\TermDates;

/** Why the figures of an invoice that is being typed are what they are. */
final readonly class WhyPlan
{
    public function __construct(private CodeBook $codes, private BooksDay $booksDay)
    {
    }

    /** @return list<Reasoned> */
    public function of(Actor $actor, InvoiceInput $input, InvoicePlan $plan): array
    {
        $term = null === $input->termId ? null : $this->codes->terms($actor->companyId)[$input->termId];
        $dates = new TermDates(
            $plan->documentDate,
            $plan->postingDate,
            $this->booksDay->of($actor->companyId),
            $input->startDate,
            $input->startDate,
        );
        $parts = array_map(
            static fn (ScheduledPart $p): array => ['due' => $p->due, 'amount' => $p->amount],
            $plan->parts,
        );
        $rule = WhyInvoice::baseRule($plan->discountBase, $plan->tax->total(), $plan->tax->net);
        $reasons = [
            ...[] === $parts || $input->kind->itemSign($input->side) < 0
                ? []
                : WhyInvoice::due($term?->term(), $term->code ?? '', $dates, $parts, $input->currency),
        ];
        foreach ($plan->parts as $p) {
            $reasons = [
                ...$reasons,
                ...WhyInvoice::discounts(
                    $p->discounts,
                    $p->discountBase,
                    $p->amount,
                    $rule,
                    $plan->graceDays,
                    $input->currency,
                ),
            ];
        }
        foreach ($plan->tax->taxes as $t) {
            $reasons[] = WhyInvoice::tax($t->code, $t->net, $t->tax, $t->recoverable, $input->currency);
        }
        if ($input->currency !== $actor->baseCurrency) {
            $reasons[] = WhyInvoice::base(
                $plan->tax->total(),
                $plan->base,
                $input->currency,
                $actor->baseCurrency,
                $plan->rate,
                $plan->rateDay,
            );
        }
        foreach ($plan->mismatches as $m) {
            $reasons[] = new Reasoned(
                'Variance',
                $m->said,
                'more than ordered, received or agreed, and beyond the tolerance',
                [],
            );
        }

        return $reasons;
    }
}
