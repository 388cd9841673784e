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
    case Posting = 'posting';
    case Posted = 'posted';
    case Dropped = 'dropped';

    public function words(): string
    {
        return match ($this) {
            self::Review => 'in review, awaits approval',
            self::Refused => 'refused',
            self::Approved => 'approved, to be printed',
            self::Printed => 'printed, say what came out',
            self::Posting => 'being posted',
            self::Posted => 'posted',
            self::Dropped => 'dropped',
        };
    }
}
