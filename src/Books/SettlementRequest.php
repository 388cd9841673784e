<?php

declare(strict_types=1);

namespace Nelbix\App\Books;

use Brick\Math\BigDecimal;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Ledger\Side;
use Nelbix\Core\Settlement\AdjustmentKind;

/** What is to be settled: applied amounts in the items' own sign, adjustments in the opposite sign; minor units. */
final readonly class SettlementRequest
{
    /**
     * @param list<array{item: int, applied: int}> $placements
     * @param list<array{item: int, kind: AdjustmentKind, amount: int}> $adjustments
     * @param BigDecimal|null $rate the money's rate; null takes the rate of the date
     * @param int|null $documentId the money document it belongs to
     * @param int|null $proposalId the proposal that holds the items,
     *                             when its run settles them
     */
    public function __construct(
        public Side $side,
        public array $placements,
        public array $adjustments,
        public Day $date,
        public ?BigDecimal $rate = null,
        public ?int $documentId = null,
        public ?int $proposalId = null,
        public string $text = 'Settlement',
    ) {
    }
}
