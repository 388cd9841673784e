<?php

declare(strict_types=1);

namespace Nelbix\App\Banking\Statement;

/** What a part of a line was placed on. */
enum PartKind: string
{
    /** It was recorded before; nothing is booked. */
    case Joined = 'joined';
    case Items = 'items';
    case Unapplied = 'unapplied';
    case Accounts = 'accounts';
    case Transfer = 'transfer';
    case Bounce = 'bounce';
}
