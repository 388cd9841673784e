<?php

declare(strict_types=1);

namespace Nelbix\App\Invoices;

use Nelbix\App\Ledger\PeriodGate;
use Nelbix\App\Platform\Actor;
use Nelbix\App\Platform\BooksDay;
use Nelbix\App\Platform\Settings;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Calendar\FarDay;
use Nelbix\Core\Ledger\Side;
use Nelbix\Core\Money\Money;
use Nelbix\Core\Problem;
use Nelbix\Core\ProblemKind;
use Nelbix\Core\Refused;

/** Everything that would refuse an invoice, all of it at once. Reads and locks nothing that others wait for. */
final readonly class CheckInvoice
{
    public function __construct(
        private InvoicePlanner $planner,
        private PeriodGate $periods,
        private LookAlikes $lookAlikes,
        private Settings $settings,
        private TakenNumbers $numbers,
        private BooksDay $booksDay,
        private CreditLimit $credit,
    ) {
    }

    /**
     * @param PostedAlong $along others that are posted with it; it is added to them
     *
     * @throws Refused with every problem
     */
    public function plan(Actor $actor, InvoiceToPost $toPost, PostedAlong $along = new PostedAlong()): InvoicePlan
    {
        $input = $toPost->input;
        $plan = null;
        $problems = $input->problems;
        try {
            $plan = $this->planner->plan($actor, $input);
        } catch (Refused $e) {
            array_push($problems, ...self::news($e->problems, $problems));
        }
        if ($this->isTaken($actor, $toPost, $along)) {
            $problems[] = self::taken($input);
        }
        if (null !== $plan) {
            array_push($problems, ...$this->ofPlan($actor, $toPost, $plan, $along));
        }
        if (null === $plan || [] !== $problems) {
            $problems =
                [] === $problems ? [new Problem('', 'The document cannot be worked out.')] : array_values($problems);
            throw Refused::all(array_map(static fn (Problem $p): Problem => $p->under($toPost->prefix), $problems));
        }

        return $plan;
    }

    public static function taken(InvoiceInput $input): Problem
    {
        return new Problem(
            'number',
            Side::Payables === $input->side
                ? \sprintf(
                    'This vendor’s number %s is already entered; look at that document, or correct the number.',
                    $input->number,
                )
                : \sprintf('The number %s is already used; leave it empty for the next one.', $input->number),
        );
    }

    /** @return list<Problem> */
    private function ofPlan(Actor $actor, InvoiceToPost $toPost, InvoicePlan $plan, PostedAlong $along): array
    {
        $input = $toPost->input;
        $problems = [];
        if (null !== $input->statedTotal && $input->statedTotal !== $plan->tax->total()) {
            $problems[] = new Problem(
                'stated_total',
                \sprintf(
                    'The lines with tax add up to %s, the total says %s; mend a line or the total.',
                    Money::of($plan->tax->total(), $input->currency)->decimal(),
                    Money::of($input->statedTotal, $input->currency)->decimal(),
                ),
            );
        }
        try {
            $along->once(
                'period '.$plan->postingDate->iso().$input->side->value,
                fn () => $this->periods->mustBeOpen($actor->companyId, $plan->postingDate, [$input->side]),
            );
        } catch (Refused $e) {
            array_push($problems, ...$e->problems);
        }
        array_push($problems, ...self::ofDates($input, $plan), ...$this->farDays($actor, $input, $plan));
        if (null !== $plan->farFrom && false === $input->rateMeant) {
            $problems[] = new Problem(
                'rate',
                \sprintf(
                    '%s is more than ten percent off the table’s %s; say below that it is meant, or correct it.',
                    $plan->rate,
                    $plan->farFrom->stripTrailingZeros(),
                ),
                null,
                ProblemKind::Asks,
            );
        }
        $over = $this->credit->problem($actor, $input, $plan, $along);
        if (null !== $over) {
            $problems[] = $over;
        }
        $alike = $this->lookAlike($actor, $toPost, $plan, $along);
        if (null !== $alike) {
            $problems[] = new Problem(
                'look_alike_reason',
                \sprintf(
                    'It looks like %s (%s). Say why it is another one, or throw it away.',
                    $alike['number'] ?? 'draft '.$alike['id'],
                    $alike['why'],
                ),
            );
        }

        return $problems;
    }

    /** @return list<Problem> of the kind Asks */
    private function farDays(Actor $actor, InvoiceInput $input, InvoicePlan $plan): array
    {
        if (false !== $input->dayMeant) {
            return [];
        }
        $today = $this->booksDay->of($actor->companyId);
        $far = array_filter(
            ['document_date' => $plan->documentDate, 'posting_date' => $plan->postingDate],
            static fn (Day $day): bool => FarDay::is($day, $today),
        );

        return [] === $far
            ? []
            : [new Problem((string) key($far), FarDay::question(current($far), $today), null, ProblemKind::Asks)];
    }

    /** @return list<Problem> */
    private static function ofDates(InvoiceInput $input, InvoicePlan $plan): array
    {
        $problems = [];
        if (null !== $input->dueDate && $input->dueDate->isBefore($plan->documentDate)) {
            $problems[] = new Problem(
                'due_date',
                \sprintf('It is dated %s; it cannot be due before.', $plan->documentDate->long()),
            );
        }
        foreach ($plan->parts as $part) {
            foreach ($part->discounts as $discount) {
                if (null !== $input->dueDate && $discount->through->isAfter($part->due) && [] === $problems) {
                    $problems[] = new Problem(
                        'due_date',
                        \sprintf(
                            'A discount holds until %s, after this due date; type a later one, or choose other terms.',
                            $discount->through->long(),
                        ),
                    );
                }
            }
        }

        return $problems;
    }

    /** @return array<string, mixed>|null the one it may be; the clerk decides whether it is another, and says why */
    private function lookAlike(Actor $actor, InvoiceToPost $toPost, InvoicePlan $plan, PostedAlong $along): ?array
    {
        $input = $toPost->input;
        if (Side::Payables !== $input->side || null === $input->partyId) {
            return null;
        }
        $own = [
            'party' => $input->partyId,
            'number' => $input->number,
            'total' => $plan->tax->total(),
            'date' => $plan->documentDate,
        ];
        $days = $this->settings->of($actor->companyId)->lookAlikeDays();
        $like = $along->like($own, $days);
        $along->add($own);
        if ('' !== $input->lookAlikeReason) {
            return null;
        }
        if (null !== $like) {
            return $like;
        }

        return $this->lookAlikes->of(
            $actor->companyId,
            $input->side,
            $input->partyId,
            $input->number,
            $plan->tax->total(),
            $input->documentDate,
            $toPost->draftId,
        )[0] ?? null;
    }

    /**
     * Lines that could not be read are named already; that none is left to work with is no news.
     *
     * @param list<Problem> $found
     * @param list<Problem> $known
     *
     * @return list<Problem>
     */
    private static function news(array $found, array $known): array
    {
        $isKnown = static fn (Problem $p): bool => [] !==
            array_filter(
                $known,
                static fn (Problem $q): bool => $q->field === $p->field
                    || (str_starts_with($q->field, 'lines.') && str_starts_with($p->field, 'lines')),
            );

        return array_values(array_filter($found, static fn (Problem $p): bool => !$isKnown($p)));
    }

    /** The unique keys of the table decide in the end; this says it before anything is written. */
    private function isTaken(Actor $actor, InvoiceToPost $toPost, PostedAlong $along): bool
    {
        $key = TakenNumbers::key($toPost->input);

        return null !== $key
            && ($along->takes($key)
                || (null === $along->inBooks ? $this->numbers->isTaken($actor, $toPost) : isset($along->inBooks[$key])));
    }
}
