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

    /** @return string for SQL: the states of runs that hold their items and have not paid */
    public static function unpaid(): string
    {
        $unpaid = [self::Review, self::Refused, self::Approved, self::Printed, self::Posting];

        return "'".implode("', '", array_column($unpaid, 'value'))."'";
    }

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
