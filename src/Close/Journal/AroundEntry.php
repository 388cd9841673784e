<?php

declare(strict_types=1);

namespace Nelbix\App\Close\Journal;

use Nelbix\App\People\HistoryQuery;
use Nelbix\App\Platform\FileStore;

/** What stands around an entry by hand on its pages: who did what with it, and its papers. */
final readonly class AroundEntry
{
    public function __construct(private HistoryQuery $history, private FileStore $files)
    {
    }

    /** @return array{history: list<array<string, mixed>>, papers: list<array<string, mixed>>} none for an entry that is not kept yet */
    public function of(?ManualEntry $entry): array
    {
        return null === $entry
            ? ['history' => [], 'papers' => []]
            : [
                'history' => $this->history->of($entry->companyId, 'manual_entry', $entry->id()),
                'papers' => $this->files->of($entry->companyId, 'journal', $entry->id()),
            ];
    }
}
