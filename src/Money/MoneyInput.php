<?php

declare(strict_types=1);

namespace Nelbix\App\Money;

use Brick\Math\BigDecimal;
use Nelbix\App\Books\AdjustmentRequest;
use Nelbix\App\Books\PlacementRequest;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Ledger\DocumentKind;
use Nelbix\Core\Ledger\Side;

/** A receipt, payment or prepayment and what it is placed on. Amounts in minor units of $currency. */
final readonly class MoneyInput
{
    /**
     * @param int $amount what moved, positive
     * @param list<PlacementRequest> $placements gross, in the item's own sign (credits used are negative)
     * @param list<AdjustmentRequest> $adjustments in the opposite sign
     * @param int|null $control the account its own item stands on; null for the party's
     * @param string $theirReference what the bank, or the payer, calls it: a check's number, the reference of a transfer
     * @param bool $restIsPrepayment what it is not placed on is a prepayment of its payer, else it stays unapplied
     * @param AdjustmentRequest|null $restTo where what is left over goes instead: kind, account and reason; its item and amount are
     *                                       those of the money
     * @param int|null $bankAmount what moved at the bank, positive, minor units of its account's currency; null for the table's rate
     * @param int|null $prepaidTaxCode the tax that is in what is a prepayment of it; null for none
     * @param int|null $receiptBatchId the open batch of receipts that it belongs to
     * @param list<AdjustmentRequest> $recovers debts written off that what is left over is for; they come to all of it
     * @param Answers|null $answers null when nobody can be asked: a run that was approved, the demo
     */
    public function __construct(
        public Side $side,
        public DocumentKind $kind,
        public int $partyId,
        public int $bankAccountId,
        public Day $date,
        public string $currency,
        public int $amount,
        public string $reference = '',
        public string $method = '',
        public array $placements = [],
        public array $adjustments = [],
        public ?BigDecimal $rate = null,
        public ?int $proposalId = null,
        public ?int $control = null,
        public ?Answers $answers = null,
        public string $theirReference = '',
        public bool $restIsPrepayment = false,
        public ?int $bankAmount = null,
        public ?AdjustmentRequest $restTo = null,
        public ?int $prepaidTaxCode = null,
        public ?int $receiptBatchId = null,
        public array $recovers = [],
    ) {
    }

    /** The same without what was typed of the bank: what the table's rates make of it. */
    public function atTable(): self
    {
        return new self(...['bankAmount' => null] + get_object_vars($this));
    }

    /** The same with the check's number before what is said of it. */
    public function byCheck(string $number): self
    {
        return new self(
            ...['reference' => mb_substr(trim('check '.$number.' '.$this->reference), 0, 120)] +
                get_object_vars($this),
        );
    }

    /** How much of the money the placements use, positive; the rest stays unapplied. */
    public function used(): int
    {
        return -$this->sign() *
            (array_sum(array_column($this->placements, 'applied')) +
                array_sum(array_column($this->adjustments, 'amount')));
    }

    /** The sign of its own item: −1 lowers what is owed, +1 is a refund that a vendor gave. */
    public function sign(): int
    {
        return $this->kind->itemSign($this->side);
    }
}
