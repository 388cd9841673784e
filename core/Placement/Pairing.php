<?php

declare(strict_types=1);

namespace Nelbix\Core\Placement;

use Nelbix\Core\OpenItems\OpenItem;

/** A credit that is there already, and what it fits: all of it is used. */
final readonly class Pairing
{
    public function __construct(public OpenItem $credit, public Idea $idea)
    {
    }
}
