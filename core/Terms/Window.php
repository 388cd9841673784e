<?php

declare(strict_types=1);

namespace Nelbix\Core\Terms;

/** "When the date falls on day a to b, start on …": one window of a term's calendar. */
final readonly class Window
{
    public function __construct(public int $fromDay, public int $toDay, public Step $start)
    {
    }

    public function holds(int $dayOfMonth): bool
    {
        return $dayOfMonth >= $this->fromDay && $dayOfMonth <= $this->toDay;
    }
}
