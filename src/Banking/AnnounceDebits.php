<?php

declare(strict_types=1);

namespace Nelbix\App\Banking;

use Nelbix\App\Platform\Actor;

/** Tells customers what is going to be collected from them, and when. */
interface AnnounceDebits
{
    /** @return int how many of the file lie in the outbox; the others have no address and are printed */
    public function announce(Actor $actor, BankFile $file): int;
}
