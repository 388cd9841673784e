<?php

declare(strict_types=1);

namespace Nelbix\Core\TieOut;

/**
 * What one source (a document, a settlement or a bypass entry) moved on a control account on one day:
 * by its journal entries and by its open items, in the account's normal sign, base minor units.
 */
final readonly class Movement
{
    public function __construct(
        public string $source,
        public string $date,
        public int $ledger,
        public int $items,
        public bool $bypass = false,
        public string $text = '',
        public string $by = '',
        public bool $hasEntry = true,
        public bool $hasItem = true,
    ) {
    }
}
