<?php

declare(strict_types=1);

namespace Nelbix\App\Goods;

/** What takes goods out of received-not-invoiced, or out of invoiced-not-received. */
enum MoveKind: string
{
    case Invoiced = 'invoiced';
    case Returned = 'returned';
    case Cleared = 'cleared';
    /** It came after its invoice. */
    case Arrived = 'arrived';
    /** An invoice waited for it, and it never comes. */
    case NeverCame = 'never came';
}
