<?php

declare(strict_types=1);

namespace Nelbix\App\Money;

/** Whether a claim waits for a decision, and which it was. Settled or dropped it is when its item is no longer open. */
enum ClaimState: string
{
    case Open = 'open';
    case Awaiting = 'awaiting';
    case Approved = 'approved';
    case Refused = 'refused';
}
