<?php

declare(strict_types=1);

namespace Nelbix\App\Invoices;

/** What is decided on an invoice that does not fit its order. */
enum MatchDecision: string
{
    case Accepted = 'accepted';
    case Claimed = 'claimed';
    case Refused = 'refused';
    /** Nobody decided: what the invoice waited for came. */
    case Came = 'came';

    public function words(): string
    {
        return match ($this) {
            self::Accepted => 'accepted',
            self::Claimed => 'accepted, and a credit asked for',
            self::Refused => 'refused',
            self::Came => 'received',
        };
    }
}
