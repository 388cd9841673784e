<?php

declare(strict_types=1);

namespace Nelbix\Core\Pairing;

use Nelbix\Core\Calendar\Day;

/** A row of one side of a pairing set. */
final readonly class Row
{
    /** Days are counted from here, so that they are compared as numbers. */
    private const EPOCH = '2000-01-01';

    /** @var int days since EPOCH */
    public int $day;

    /**
     * @param int $id unique on its side
     * @param int $amount minor units; the sign of one side is turned already, where the set says so
     * @param array<string, string> $fields by the name that both sides share
     */
    public function __construct(public int $id, public int $amount, Day $date, public array $fields = [])
    {
        $this->day = Day::of(self::EPOCH)->daysUntil($date);
    }
}
