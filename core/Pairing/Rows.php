<?php

declare(strict_types=1);

namespace Nelbix\Core\Pairing;

/** How many rows of a side belong to a pair. */
enum Rows: string
{
    case One = 'one';
    case Any = 'any';

    public function words(): string
    {
        return self::One === $this ? 'one row' : 'any number of rows';
    }
}
