<?php

declare(strict_types=1);

namespace Nelbix\App\Today;

use Nelbix\App\Platform\Desk;
use Nelbix\App\Platform\WaitingLine;
use Nelbix\App\Platform\Waits;
use Symfony\Component\DependencyInjection\Attribute\AutowireIterator;

/** What waits today: asks each area for its lines. */
final readonly class WhatWaits
{
    /** @param iterable<Waits> $areas */
    public function __construct(#[AutowireIterator(Waits::class)] private iterable $areas)
    {
    }

    /** @return list<WaitingLine> of which anything waits, in the order of the page */
    public function for(Desk $desk): array
    {
        $lines = [];
        foreach ($this->areas as $area) {
            foreach ($area->lines($desk) as $line) {
                if ($line->count > 0) {
                    $lines[] = $line;
                }
            }
        }
        $rank = array_flip(WaitingLine::HEADINGS);
        usort(
            $lines,
            static fn (WaitingLine $a, WaitingLine $b): int => [$rank[$a->heading], $a->place] <=> [
                $rank[$b->heading],
                $b->place,
            ],
        );

        return $lines;
    }
}
