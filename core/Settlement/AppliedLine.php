<?php

declare(strict_types=1);

namespace Nelbix\Core\Settlement;

use Nelbix\Core\OpenItems\OpenItem;

/** An item and how much of it a settlement takes: gross, in the item's own sign, with its base value. */
final readonly class AppliedLine
{
    public function __construct(public OpenItem $item, public int $applied, public int $appliedBase)
    {
    }
}
