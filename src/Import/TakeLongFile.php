<?php

declare(strict_types=1);

namespace Nelbix\App\Import;

/** Takes a long file over. */
final readonly class TakeLongFile extends ImportJob
{
    public function kind(): string
    {
        return 'import';
    }

    protected function dryRun(): bool
    {
        return false;
    }
}
