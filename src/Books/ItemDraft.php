<?php

declare(strict_types=1);

namespace Nelbix\App\Books;

use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Ledger\DocumentKind;
use Nelbix\Core\Ledger\Side;
use Nelbix\Core\Ledger\TransferLeg;
use Nelbix\Core\Terms\DatedDiscount;

/** An open item as a document is going to raise it: amount and base in minor units, in the item's own sign. */
final readonly class ItemDraft
{
    /**
     * @param list<DatedDiscount> $discounts
     * @param DocumentKind|null $kind when it is another than its document's: the rest of a receipt that is a prepayment
     */
    public function __construct(
        public Side $side,
        public int $party,
        public int $account,
        public int $amount,
        public int $base,
        public Day $due,
        public int $discountBase = 0,
        public int $graceDays = 0,
        public array $discounts = [],
        public ?DocumentKind $kind = null,
    ) {
    }

    /** The item that a leg of a transfer or a contra makes. */
    public static function ofLeg(TransferLeg $leg, Day $due): self
    {
        return new self($leg->side, $leg->party, $leg->account, $leg->amount, $leg->base, $due);
    }
}
