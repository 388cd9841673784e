<?php

declare(strict_types=1);

namespace Nelbix\App\Documents;

use Nelbix\App\Platform\Actor;
use Nelbix\Core\Refused;

/** Reverses a posted document that was a mistake. Kept behind an interface because documents do not know settlements. */
interface ReversePosted
{
    /**
     * @return int the reversal's id
     *
     * @throws Refused while a settlement stands on it, with the list of what to undo first
     */
    public function reverse(Actor $actor, int $documentId, string $reason): int;
}
