<?php

declare(strict_types=1);

namespace Nelbix\App\Bank;

/** What became of a check number. Source: rules.md, Checks. */
enum CheckState: string
{
    case Reserved = 'reserved';
    case Printed = 'printed';
    case Issued = 'issued';
    case Cleared = 'cleared';
    case Voided = 'voided';
    case Spoiled = 'spoiled';
    case Stopped = 'stopped';
    case Skipped = 'skipped';
    case Returned = 'returned';
}
