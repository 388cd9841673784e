<?php

declare(strict_types=1);

namespace Nelbix\App\Books;

/** How a document was taken back, in the word that its page and its history say. */
enum HowTakenBack: string
{
    case Reversed = 'reversed';
    case Voided = 'voided';
    case Stopped = 'stopped';
    case Bounced = 'bounced';
    case Returned = 'returned by the bank';
    case Rejected = 'rejected by the bank';
    case Withdrawn = 'withdrawn';

    /** Whether the money moved, and moved back: both stand on the bank's statement. */
    public function movedBothWays(): bool
    {
        return self::Bounced === $this || self::Returned === $this;
    }
}
