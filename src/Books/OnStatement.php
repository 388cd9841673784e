<?php

declare(strict_types=1);

namespace Nelbix\App\Books;

use Nelbix\App\Ledger\Source;
use Nelbix\Core\Refused;

/** What stands on a statement of the bank cannot have been a mistake. Kept behind an interface because the books do not know statements. */
interface OnStatement
{
    /** @throws Refused while a line of a statement is placed on what was posted for the source, naming the line */
    public function mustNotHold(Source $source): void;
}
