<?php

declare(strict_types=1);

namespace Nelbix\Core\Ledger;

/** A draft whose debits and credits differ: a defect, never a clerk's mistake. */
final class UnbalancedEntry extends \LogicException
{
    public function __construct(public readonly int $difference)
    {
        parent::__construct(\sprintf('Debits and credits differ by %d minor units.', $difference));
    }
}
