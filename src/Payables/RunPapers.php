<?php

declare(strict_types=1);

namespace Nelbix\App\Payables;

/** The checks and files of a run, for its page. Kept behind an interface because runs do not know printing and bank files. */
interface RunPapers
{
    /**
     * @return array{
     *     stand_ins: bool,
     *     checks: list<array<string, mixed>>,
     *     books: list<array<string, mixed>>,
     *     outcome: array<int, string>,
     *     files: list<array<string, mixed>>
     * } whether a stand-in prints; the checks with numbers, the check books to choose from, what the printer did with each, and the
     *   bank files; each only in the state in which it matters
     */
    public function of(Proposal $proposal): array;
}
