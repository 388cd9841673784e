<?php

declare(strict_types=1);

namespace Nelbix\Core\Proposal;

/** A proposal worked out: every candidate is in exactly one of in and out. */
final readonly class ProposalResult
{
    /**
     * @param list<Decision> $in
     * @param list<Decision> $out
     * @param list<ProposedPayment> $payments
     * @param list<Candidate> $prepayments of those who are paid: to settle first
     * @param int $leftOut how many are out; $out holds as many of them as were asked for
     * @param int $lost discount at stake on them, minor units
     */
    public function __construct(
        public array $in,
        public array $out,
        public array $payments,
        public array $prepayments,
        public int $leftOut,
        public int $lost,
    ) {
    }

    /** @return list<Decision> what is in here and not there */
    public function inButNot(self $there): array
    {
        $known = [];
        foreach ($there->in as $d) {
            $known[$d->candidate->item->id] = true;
        }

        return array_values(
            array_filter($this->in, static fn (Decision $d): bool => !isset($known[$d->candidate->item->id])),
        );
    }

    /** @return array{gross: int, discount: int, credits: int, withholding: int, pay: int, lost: int} minor units, all positive */
    public function totals(): array
    {
        $t = ['gross' => 0, 'discount' => 0, 'credits' => 0, 'withholding' => 0, 'pay' => 0, 'lost' => $this->lost];
        foreach ($this->in as $d) {
            $open = $d->candidate->item->open;
            $t[$open > 0 ? 'gross' : 'credits'] += abs($open);
            $t['discount'] += $d->discount;
            $t['withholding'] += $d->withholding();
            $t['pay'] += $d->pay();
        }

        return $t;
    }
}
