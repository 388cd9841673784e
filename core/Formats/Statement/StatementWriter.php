<?php

declare(strict_types=1);

namespace Nelbix\Core\Formats\Statement;

/** Writes a statement as a bank would send it. What a format has no place for is left out. */
interface StatementWriter
{
    public function write(BankStatement $statement): string;
}
