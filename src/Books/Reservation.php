<?php

declare(strict_types=1);

namespace Nelbix\App\Books;

/** Who holds an item so that no settlement takes it: a payment proposal, or the lot of a file that is not taken over whole yet. */
final readonly class Reservation
{
    /**
     * @param int $id of a proposal; of a lot, below zero
     * @param string $number what it is called
     */
    public function __construct(public int $id, public string $number)
    {
    }

    /** @param int $lot a PostingLot's id */
    public static function ofLot(int $lot): self
    {
        return new self(-$lot, 'import '.$lot);
    }

    /** Why an item that is held cannot be taken, and what to do. */
    public function refusal(string $item): string
    {
        return $this->id < 0
            ? \sprintf(
                '%s came with %s, which is not through; it waits until all of the file is there.',
                $item,
                $this->number,
            )
            : \sprintf('%s is reserved by payment proposal %s; drop it there first.', $item, $this->number);
    }
}
