<?php

declare(strict_types=1);

namespace Nelbix\Core\Placement;

/** Why a placement is proposed, in the order in which the rules are tried. Source: rules.md, Proposing where a receipt goes. */
enum Why: string
{
    case Marked = 'marked';
    case Text = 'text';
    case Amount = 'amount';
    case Order = 'order';
    case Sum = 'sum';
    case Account = 'account';
    case Asked = 'asked';
    case Lapsed = 'lapsed';
    case Charge = 'charge';
    case Oldest = 'oldest';

    public function words(): string
    {
        return match ($this) {
            self::Marked => 'their list marks it',
            self::Text => 'their text names it',
            self::Amount => 'one amount fits',
            self::Order => 'all of one order',
            self::Sum => 'only one sum fits',
            self::Account => 'clears the account',
            self::Asked => 'a prepayment was asked for',
            self::Lapsed => 'one amount fits less the discount that lapsed',
            self::Charge => 'one amount fits less a bank charge',
            self::Oldest => 'oldest first',
        };
    }
}
