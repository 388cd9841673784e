<?php

declare(strict_types=1);

namespace Nelbix\App\People;

/** How far somebody is signed in, and whether they are named as somebody's substitute. */
final readonly class Presence
{
    public function __construct(public PresenceState $state, public bool $deputy = false)
    {
    }
}
