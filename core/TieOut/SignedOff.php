<?php

declare(strict_types=1);

namespace Nelbix\Core\TieOut;

use Nelbix\Core\Calendar\Day;

/** What a controller signed off last: the day, and the difference that was accepted then, in the account's normal sign. */
final readonly class SignedOff
{
    public function __construct(public Day $day, public int $difference)
    {
    }
}
