<?php

declare(strict_types=1);

namespace Nelbix\App\Close\Journal;

/** What became of an entry by hand: it waits, or is posted under a number. */
final readonly class PostedManual
{
    public function __construct(public int $id, public bool $waits, public string $number)
    {
    }
}
