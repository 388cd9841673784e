<?php

declare(strict_types=1);

namespace Nelbix\App\Books;

use Brick\Math\BigDecimal;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Ledger\Side;

/** What is to be settled: applied amounts in the items' own sign, adjustments in the opposite sign; minor units. */
final readonly class SettlementRequest
{
    /**
     * @param list<PlacementRequest> $placements
     * @param list<AdjustmentRequest> $adjustments
     * @param BigDecimal|null $rate the money's rate; null takes the rate of the date
     * @param Document|null $document the money document it belongs to
     * @param int|null $proposalId the proposal that holds the items, when its run settles them
     * @param int|null $askedBy who asked for what is given up here, when the one who settles it approves that
     * @param string $text what the entry says it is, behind the number of the document
     */
    public function __construct(
        public Side $side,
        public array $placements,
        public array $adjustments,
        public Day $date,
        public ?BigDecimal $rate = null,
        public ?Document $document = null,
        public ?int $proposalId = null,
        public string $text = 'settlement',
        public ?int $askedBy = null,
    ) {
    }

    /** What its entry says, once the document has its number. */
    public function said(): string
    {
        return null === $this->document ? ucfirst($this->text) : $this->document->number.' '.$this->text;
    }
}
