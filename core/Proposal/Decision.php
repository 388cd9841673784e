<?php

declare(strict_types=1);

namespace Nelbix\Core\Proposal;

/** What a proposal decides on one item. Amounts in minor units, in the item's sign for $pay. */
final readonly class Decision
{
    /**
     * @param int $discount discount taken on the pay date (0 when out)
     * @param int $stake discount on the pay date less discount on paying again, when positive
     */
    public function __construct(
        public Candidate $candidate,
        public bool $in,
        public Reason $reason,
        public int $discount = 0,
        public int $stake = 0,
    ) {
    }

    /** What moves: open less discount and withholding; negative for a credit. */
    public function pay(): int
    {
        return $this->in ? $this->candidate->item->open - $this->discount - $this->withholding() : 0;
    }

    public function withholding(): int
    {
        return $this->in
            ? (int) $this->candidate->withholding?->on($this->candidate->item->open, $this->discount, true)
            : 0;
    }

    public function out(Reason $reason): self
    {
        return new self($this->candidate, false, $reason, 0, $this->stake);
    }
}
