<?php

declare(strict_types=1);

namespace Nelbix\App\Books;

use Nelbix\Core\Settlement\AdjustmentKind;

/** What helps to close an item beside the money: minor units, in the opposite sign of the item. */
final readonly class AdjustmentRequest
{
    public function __construct(public int $item, public AdjustmentKind $kind, public int $amount)
    {
    }
}
