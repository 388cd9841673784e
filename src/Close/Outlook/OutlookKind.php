<?php

declare(strict_types=1);

namespace Nelbix\App\Close\Outlook;

/** What money of an outlook comes of, in the order of its columns. */
enum OutlookKind: string
{
    case Customers = 'customers';
    case OnHand = 'on_hand';
    case RecurringIn = 'recurring_in';
    case Runs = 'runs';
    case Vendors = 'vendors';
    case RecurringOut = 'recurring_out';
    case Orders = 'orders';
    case Posted = 'posted';

    public function words(): string
    {
        return match ($this) {
            self::Customers => 'From customers',
            self::OnHand => 'To be deposited',
            self::RecurringIn => 'Recurring, in',
            self::Runs => 'Runs',
            self::Vendors => 'Due to vendors',
            self::RecurringOut => 'Recurring, out',
            self::Orders => 'Orders',
            self::Posted => 'Posted ahead',
        };
    }
}
