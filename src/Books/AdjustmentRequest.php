<?php

declare(strict_types=1);

namespace Nelbix\App\Books;

use Nelbix\Core\Settlement\AdjustmentKind;

/** What helps to close an item beside the money: minor units, in the opposite sign of the item. */
final readonly class AdjustmentRequest
{
    /**
     * @param int|null $account where another account than the kind's own is named
     * @param string $reason what the person said who gives it up
     * @param int|null $recovers the adjustment that wrote the debt off which this recovers
     */
    public function __construct(
        public int $item,
        public AdjustmentKind $kind,
        public int $amount,
        public ?int $account = null,
        public string $reason = '',
        public ?int $recovers = null,
    ) {
    }

    /** The same on another item: of money that has no id before it is posted. */
    public function on(int $item): self
    {
        return new self($item, $this->kind, $this->amount, $this->account, $this->reason, $this->recovers);
    }
}
