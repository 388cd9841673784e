<?php

declare(strict_types=1);

namespace Nelbix\Core\Proposal;

/** What a proposal leaves out, counted as it comes; only as much of it is held as whoever asks wants to see. */
final class LeftOut
{
    public int $count = 0;

    /** Discount at stake that is lost by not paying, minor units: of one currency, and of what no other proposal pays. */
    public int $lost = 0;

    /** @var array<int, Decision> by the place of its candidate */
    private array $kept = [];

    /** @param (\Closure(Decision): bool)|null $keep */
    public function __construct(private readonly ?\Closure $keep)
    {
    }

    /** @param int $place of its candidate among all */
    public function add(Decision $decision, int $place): void
    {
        ++$this->count;
        $this->lost += $decision->reason->losesDiscount() ? $decision->stake : 0;
        if (null === $this->keep || ($this->keep)($decision)) {
            $this->kept[$place] = $decision;
        }
    }

    /** @return list<Decision> in the order of the candidates */
    public function kept(): array
    {
        ksort($this->kept);

        return array_values($this->kept);
    }
}
