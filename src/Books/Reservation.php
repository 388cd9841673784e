<?php

declare(strict_types=1);

namespace Nelbix\App\Books;

/** Who holds an item so that no other settlement takes it: a payment proposal, with its id and its number. */
final readonly class Reservation
{
    public function __construct(public int $id, public string $number)
    {
    }
}
