<?php

declare(strict_types=1);

namespace Nelbix\App\Money;

use Nelbix\App\Books\AdjustmentRequest;
use Nelbix\App\Books\PlacementRequest;
use Nelbix\Core\Ledger\DocumentKind;
use Symfony\Component\DependencyInjection\Attribute\Exclude;

/** What money does for one party: the item it makes, and what that is placed on. Amount in minor units, positive; 0 makes no item. */
#[Exclude]
final readonly class MoneyShare
{
    /**
     * @param int $used of the amount, what the placements take; negative never
     * @param list<PlacementRequest> $placements in the items' own sign
     * @param list<AdjustmentRequest> $adjustments in the opposite sign; of item 0 are those on the money itself
     */
    public function __construct(
        public int $party,
        public int $account,
        public DocumentKind $kind,
        public int $amount,
        public int $used = 0,
        public array $placements = [],
        public array $adjustments = [],
    ) {
    }

    public function settles(): bool
    {
        return [] !== $this->placements || [] !== $this->adjustments;
    }
}
