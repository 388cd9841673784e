<?php

declare(strict_types=1);

namespace Nelbix\Core\Settlement;

use Nelbix\Core\OpenItems\OpenItem;

/** How much of an item a settlement takes: minor units in the item's own sign, between zero and what is open. */
final readonly class Placement
{
    public function __construct(public OpenItem $item, public int $applied)
    {
    }
}
