<?php

declare(strict_types=1);

namespace Nelbix\App\Goods;

/** What takes delivered goods out of received-not-invoiced. */
enum MoveKind: string
{
    case Invoiced = 'invoiced';
    case Returned = 'returned';
    case Cleared = 'cleared';
}
