<?php

declare(strict_types=1);

namespace Nelbix\App\Import;

/** Checks a long file. */
final readonly class CheckLongFile extends ImportJob
{
    public function kind(): string
    {
        return 'import-check';
    }

    protected function dryRun(): bool
    {
        return true;
    }
}
