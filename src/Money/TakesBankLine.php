<?php

declare(strict_types=1);

namespace Nelbix\App\Money;

use Nelbix\App\Platform\Actor;
use Nelbix\Core\Refused;

/** The line of a bank statement that money is posted for on the board. Behind an interface because money does not know statements. */
interface TakesBankLine
{
    /**
     * Joins the line with what was posted for it. Call inside the transaction that posts.
     *
     * @throws Refused when the line has its place, or the money is not what it shows
     */
    public function takes(Actor $actor, int $lineId, int $documentId): void;
}
