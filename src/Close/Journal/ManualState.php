<?php

declare(strict_types=1);

namespace Nelbix\App\Close\Journal;

/** Where an entry by hand stands. */
enum ManualState: string
{
    case Draft = 'draft';
    case Waiting = 'waiting';
    case Posted = 'posted';
    case Dropped = 'dropped';
    case Recurring = 'recurring';
    case Stopped = 'stopped';
}
