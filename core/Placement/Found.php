<?php

declare(strict_types=1);

namespace Nelbix\Core\Placement;

/** What was found for a line, the best first, and whether that may be marked to go. */
final readonly class Found
{
    /** @param list<Find> $finds */
    public function __construct(public array $finds, public bool $sure)
    {
    }

    /** Another line wants the same. */
    public function contested(BankLine $other): self
    {
        return new self(
            [
                $this->finds[0]->but(\sprintf('the line of %s wants it too', $other->day->long())),
                ...\array_slice($this->finds, 1),
            ],
            false,
        );
    }
}
