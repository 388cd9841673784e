<?php

declare(strict_types=1);

namespace Nelbix\App\Money;

use Nelbix\App\Books\OpenItemsQuery;
use Nelbix\Core\OpenItems\OpenItem;
use Symfony\Component\DependencyInjection\Attribute\Exclude;

/**
 * What one party has open in one currency, as the board sees it, and in which other currencies there is something.
 *
 * @phpstan-import-type ItemRow from OpenItemsQuery
 */
#[Exclude]
final readonly class BoardRows
{
    /**
     * @param array<int, ItemRow> $rows by id, in the sign of the board
     * @param array<int, OpenItem> $items the same for the core
     * @param array<string, array{count: int, open: int}> $currencies what is open in each, this one among them
     * @param list<int> $elsewhere items that are open in the other currencies
     */
    public function __construct(
        public string $currency,
        public array $rows,
        public array $items,
        public array $currencies,
        public array $elsewhere,
    ) {
    }
}
