<?php

declare(strict_types=1);

namespace Nelbix\Core\Placement;

/** One way to place money: per item what is settled of it, gross and positive, and the discount in that; minor units. */
final readonly class Idea
{
    /**
     * @param array<int, array{gross: int, discount: int}> $placed by item, in order of item; a credit used has its amount as gross
     */
    public function __construct(public Why $why, public array $placed)
    {
    }
}
