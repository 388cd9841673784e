<?php

declare(strict_types=1);

namespace Nelbix\Core\Proposal;

/** One payment of a proposal: to one payee, by one method. */
final readonly class ProposedPayment
{
    /** @param non-empty-list<Decision> $decisions all in */
    public function __construct(public Payee $payee, public array $decisions)
    {
    }

    public function amount(): int
    {
        return array_sum(array_map(static fn (Decision $d): int => $d->pay(), $this->decisions));
    }

    public function earliestDue(): string
    {
        $invoices = array_filter($this->decisions, static fn (Decision $d): bool => $d->candidate->item->open > 0);

        return min(
            array_map(
                static fn (Decision $d): string => $d->candidate->item->due->iso(),
                [] === $invoices ? $this->decisions : $invoices,
            ),
        );
    }
}
