<?php

declare(strict_types=1);

namespace Nelbix\App\Payables;

/** The way of a payment proposal. Open ones reserve their items. */
enum ProposalState: string
{
    case Review = 'review';
    case Refused = 'refused';
    case Approved = 'approved';
    case Printed = 'printed';
    case Posted = 'posted';
    case Dropped = 'dropped';

    public function reserves(): bool
    {
        return !\in_array($this, [self::Posted, self::Dropped], true);
    }

    public function words(): string
    {
        return match ($this) {
            self::Review => 'in review, awaits approval',
            self::Refused => 'refused',
            self::Approved => 'approved, to be printed',
            self::Printed => 'printed, say what came out',
            self::Posted => 'posted',
            self::Dropped => 'dropped',
        };
    }
}
