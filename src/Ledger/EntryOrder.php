<?php

declare(strict_types=1);

namespace Nelbix\App\Ledger;

use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Ledger\JournalDraft;
use Nelbix\Core\Ledger\Side;

/** An entry to be written, and what it belongs to. */
final readonly class EntryOrder
{
    /**
     * @param string|\Closure(): string $text a closure is asked once all numbers are given
     * @param list<Side> $sides party ledgers the entry belongs to; an entry with none may touch a control account only for a delivery
     *                          or as a bypass
     */
    public function __construct(
        public JournalDraft $draft,
        public Day $day,
        public string|\Closure $text,
        public array $sides,
        public ?Source $source = null,
        public ?int $reversesId = null,
        public bool $bypass = false,
    ) {
    }
}
