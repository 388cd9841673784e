<?php

declare(strict_types=1);

namespace Nelbix\App\Close\Journal;

use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Ledger\JournalDraft;

/** An entry by hand as it was understood. */
final readonly class JournalInput
{
    /** @param array<mixed> $form as it was typed, to be shown again */
    public function __construct(
        public Day $day,
        public string $text,
        public JournalDraft $draft,
        public bool $bypass,
        public string $bypassWhy,
        public ?Day $reversesOn,
        public array $form,
    ) {
    }

    /** What is debited, base minor units. */
    public function amount(): int
    {
        return array_sum(array_map(static fn ($l): int => max(0, $l->base), $this->draft->lines));
    }
}
