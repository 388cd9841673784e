<?php

declare(strict_types=1);

namespace Nelbix\Core\Terms;

use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Money\Rounding;
use Nelbix\Core\Money\Shares;
use Nelbix\Core\ProblemList;
use Nelbix\Core\Refused;

/** A payment term and the schedule it gives. Source: rules.md, Payment terms. */
final readonly class PaymentTerm
{
    /**
     * @param list<Window> $windows the first that holds the day moves the start
     * @param list<PercentStep> $discounts any number
     * @param list<PercentStep> $instalments percents add up to 100; empty for one part at the net step
     */
    public function __construct(
        public RunsFrom $runsFrom,
        public Step $net,
        public array $windows = [],
        public array $discounts = [],
        public array $instalments = [],
        public int $graceDays = 0,
    ) {
    }

    /** The same for what earns no discount: a finance charge. */
    public function withoutDiscounts(): self
    {
        return new self($this->runsFrom, $this->net, $this->windows, [], $this->instalments, $this->graceDays);
    }

    /**
     * Reads a term from the text form used in CSV files and by --spec:
     * runs_from, net, windows "1-15:+1m10 16-31:+2m10", discounts "2@10 1@20", instalments "30@30 30@60 40@90", grace_days.
     *
     * @param array<string, mixed> $spec
     *
     * @throws Refused with every problem found
     */
    public static function fromSpec(array $spec): self
    {
        $problems = new ProblemList();
        $text = static fn (string $key): string => \is_scalar($spec[$key] ?? null) ? trim((string) $spec[$key]) : '';
        $runsFrom = RunsFrom::tryFrom('' === $text('runs_from') ? 'document' : $text('runs_from'));
        if (null === $runsFrom) {
            $problems->add(
                'runs_from',
                \sprintf('“%s” is not a date to run from; document, posting, entry or asked are.', $text('runs_from')),
            );
        }
        $net = $problems->attempt(static fn (): Step => Step::parse('' === $text('net') ? '0' : $text('net')));
        $windows = $problems->attempt(static fn (): array => TermText::windows($text('windows')));
        $discounts = $problems->attempt(static fn (): array => TermText::percentSteps($text('discounts'), 'discounts'));
        $instalments = $problems->attempt(static fn (): array => TermText::instalments($text('instalments')));
        $grace = '' === $text('grace_days') ? '0' : $text('grace_days');
        if (1 !== preg_match('/\A\d{1,3}\z/', $grace)) {
            $problems->add('grace_days', \sprintf('“%s” is not a number of days.', $grace));
        }
        $problems->refuse();

        return new self(
            $runsFrom ?? RunsFrom::Document,
            $net ?? Step::days(0),
            $windows ?? [],
            $discounts ?? [],
            $instalments ?? [],
            (int) $grace,
        );
    }

    /**
     * What new terms must satisfy beyond being readable; those that are kept already go on as they are.
     *
     * @throws Refused when windows overlap, or on some day of a year a discount would hold beyond the due date
     */
    public function mustMakeSense(): void
    {
        foreach ($this->windows as $k => $window) {
            foreach (\array_slice($this->windows, 0, $k) as $other) {
                if ($window->fromDay <= $other->toDay && $window->toDay >= $other->fromDay) {
                    throw Refused::because(
                        'windows',
                        \sprintf(
                            'The days %d-%d overlap %d-%d; a day belongs to one window.',
                            $window->fromDay,
                            $window->toDay,
                            $other->fromDay,
                            $other->toDay,
                        ),
                    );
                }
            }
        }
        $steps =
            [] === $this->instalments
                ? [$this->net]
                : array_map(static fn (PercentStep $i): Step => $i->step, $this->instalments);
        for ($day = Day::of('2027-01-01'); 2027 === $day->year; $day = $day->plusDays(1)) {
            $start = $this->moved($day);
            $last = Day::latest(...array_map(static fn (Step $s): Day => $s->from($start), $steps));
            foreach ($this->discounts as $discount) {
                if ($discount->step->from($start)->isAfter($last)) {
                    throw Refused::because(
                        'discounts',
                        \sprintf(
                            'From %s the discount of %s %% would hold until %s, after the due date %s; shorten it.',
                            $day->long(),
                            $discount->percent,
                            $discount->step->from($start)->long(),
                            $last->long(),
                        ),
                    );
                }
            }
        }
    }

    /** @return array{runs_from: string, net: string, windows: string, discounts: string, instalments: string, grace_days: string} */
    public function toSpec(): array
    {
        $steps = static fn (array $list): string => implode(
            ' ',
            array_map(static fn (PercentStep $s): string => $s->percent.'@'.$s->step, $list),
        );

        return [
            'runs_from' => $this->runsFrom->value,
            'net' => (string) $this->net,
            'windows' => implode(
                ' ',
                array_map(
                    static fn (Window $w): string => $w->fromDay.'-'.$w->toDay.':'.$w->start,
                    $this->windows,
                ),
            ),
            'discounts' => $steps($this->discounts),
            'instalments' => $steps($this->instalments),
            'grace_days' => (string) $this->graceDays,
        ];
    }

    /**
     * The parts a total falls into, with due and discount dates.
     *
     * @param int $total minor units, the sign of the document
     * @param int $discountBase minor units, what discount percents apply to
     *
     * @return non-empty-list<ScheduledPart> amounts and bases add up to what was given
     *
     * @throws Refused when the term asks for a date that was not given, or a due date is typed for instalments
     */
    public function schedule(TermDates $dates, int $total, int $discountBase): array
    {
        $start = $this->start($dates);
        if ([] === $this->instalments) {
            return [$this->part($dates->due ?? $this->net->from($start), $start, $total, $discountBase)];
        }
        if (null !== $dates->due) {
            throw Refused::because(
                'due_date',
                'These terms have instalments, each with its own due date; leave the due date empty or choose other terms.',
            );
        }
        $weights = array_map(
            static fn (PercentStep $i): int => $i->percent->withPointMovedRight(6)->toBigInteger()->toInt(),
            $this->instalments,
        );
        $amounts = Shares::split($total, $weights);
        $bases = Shares::split($discountBase, $weights);
        $parts = [];
        foreach ($this->instalments as $k => $instalment) {
            // a part of zero makes no item
            if (0 !== $amounts[$k] || 0 === $total) {
                $parts[] = $this->part($instalment->step->from($start), $start, $amounts[$k], $bases[$k]);
            }
        }

        return [] === $parts ? throw new \LogicException('Instalments add up to the total.') : $parts;
    }

    /** Start S: the date the days run from, moved by the window its day falls into. */
    public function start(TermDates $dates): Day
    {
        if (null !== $dates->start) {
            return $dates->start;
        }
        $from = match ($this->runsFrom) {
            RunsFrom::Document => $dates->document,
            RunsFrom::Posting => $dates->posting,
            RunsFrom::Entry => $dates->entry ??
                throw Refused::because('entry_date', 'These terms run from the day of entry; give it.'),
            RunsFrom::Asked => $dates->asked ??
                throw Refused::because(
                    'start_date',
                    'These terms run from a date that you give; type the start date.',
                ),
        };

        return $this->moved($from);
    }

    /** The day after the window that it falls into; unmoved when none holds it. */
    private function moved(Day $from): Day
    {
        foreach ($this->windows as $window) {
            if ($window->holds($from->day)) {
                return $window->start->from($from);
            }
        }

        return $from;
    }

    private function part(Day $due, Day $start, int $amount, int $base): ScheduledPart
    {
        $discounts = array_map(
            static fn (PercentStep $d): DatedDiscount => new DatedDiscount(
                $d->step->from($start),
                $d->percent,
                Rounding::percent($base, $d->percent),
            ),
            $this->discounts,
        );
        usort(
            $discounts,
            static fn (DatedDiscount $a, DatedDiscount $b): int => $a->through->iso() <=> $b->through->iso(),
        );

        return new ScheduledPart($due, $amount, $base, $discounts);
    }
}
