<?php

declare(strict_types=1);

namespace Nelbix\Core\Ledger;

/** What a line of an invoice is. Allowances and charges are meant as EN 16931 has them (BG-20, BG-21): part of the taxed net. */
enum LineKind: string
{
    case Line = 'line';
    case Allowance = 'allowance';
    case Charge = 'charge';

    /** An allowance is entered above zero and lowers the document. */
    public function sign(): int
    {
        return self::Allowance === $this ? -1 : 1;
    }

    public function words(): string
    {
        return match ($this) {
            self::Line => 'goods or services',
            self::Allowance => 'allowance (less)',
            self::Charge => 'charge (freight, packing …)',
        };
    }
}
