<?php

declare(strict_types=1);

namespace Nelbix\Core\Formats\Statement;

use Nelbix\Core\Refused;

/** Reads the statements of a file in one format, whole or not at all. */
interface StatementReader
{
    /** Whether the file looks like this format; it may still be refused. */
    public function knows(string $bytes): bool;

    /**
     * @return non-empty-list<BankStatement> in the file's order, each adding up
     *
     * @throws Refused naming line and field
     */
    public function read(string $bytes): array;
}
