<?php

declare(strict_types=1);

namespace Nelbix\App\Books;

/** How much of which open item is to be settled: gross minor units, in the item's own sign. */
final readonly class PlacementRequest
{
    public function __construct(public int $item, public int $applied)
    {
    }
}
