<?php

declare(strict_types=1);

namespace Nelbix\Core\Ledger;

/** The kinds of document; their items' sign and the letters of their numbers. Source: rules.md, Items and their sign; commands.md, CSV. */
enum DocumentKind: string
{
    case Invoice = 'invoice';
    case CreditNote = 'credit_note';
    case DebitNote = 'debit_note';
    case FinanceCharge = 'finance_charge';
    case Receipt = 'receipt';
    case Payment = 'payment';
    case Prepayment = 'prepayment';
    case Refund = 'refund';
    case RefundRequest = 'refund_request';
    case Claim = 'claim';
    case HandOver = 'hand_over';
    case ToPrepayment = 'to_prepayment';
    case FromPrepayment = 'from_prepayment';
    case Contra = 'contra';

    /** +1 raises what is owed, −1 lowers it. Our own claim on a vendor (payables debit note) lowers it. */
    public function itemSign(Side $side): int
    {
        return match ($this) {
            self::Invoice, self::FinanceCharge, self::Refund, self::RefundRequest, self::Claim => 1,
            self::DebitNote => Side::Receivables === $side ? 1 : -1,
            self::CreditNote, self::Receipt, self::Payment, self::Prepayment => -1,
            self::HandOver, self::ToPrepayment, self::FromPrepayment, self::Contra => -1,
        };
    }

    public function isMoney(): bool
    {
        return \in_array($this, [self::Receipt, self::Payment, self::Prepayment, self::Refund], true);
    }

    /** It says in lines what is owed and why: it can be put right, printed, repeated. Neither money nor a transfer. */
    public function isInvoiced(): bool
    {
        return !$this->isMoney() && !$this->settlesItself();
    }

    /** Whether paying it early may earn a discount: interest does not. */
    public function earnsDiscount(): bool
    {
        return self::FinanceCharge !== $this;
    }

    /** Its items move what is owed from one place to another and add up to zero. */
    public function isTransfer(): bool
    {
        return \in_array(
            $this,
            [self::RefundRequest, self::Claim, self::HandOver, self::ToPrepayment, self::FromPrepayment],
            true,
        );
    }

    /** Its settlements stand and fall with it, on whichever side they are: it is reversed, and none of them is undone alone. */
    public function settlesItself(): bool
    {
        return $this->isTransfer() || self::Contra === $this;
    }

    /** What it makes is money that moved on the day of the document it carries on: discounts hold as of then, however late it is placed. */
    public function carriesMoney(): bool
    {
        return \in_array($this, [self::HandOver, self::ToPrepayment, self::FromPrepayment], true);
    }

    /** An item of it stands in the column of prepayments. */
    public function isPrepaid(): bool
    {
        return \in_array($this, [self::Prepayment, self::ToPrepayment], true);
    }

    /** @return non-empty-list<string> the values of those whose items carry another document's item on */
    public static function transfers(): array
    {
        /** @var non-empty-list<string> */
        return array_values(
            array_map(
                static fn (self $k): string => $k->value,
                array_filter(self::cases(), static fn (self $k): bool => $k->isTransfer()),
            ),
        );
    }

    /** @return non-empty-list<string> the values of those whose items are not their total: they add up to zero, or stand on both sides */
    public static function settlingThemselves(): array
    {
        /** @var non-empty-list<string> */
        return array_values(
            array_map(
                static fn (self $k): string => $k->value,
                array_filter(self::cases(), static fn (self $k): bool => $k->settlesItself()),
            ),
        );
    }

    public function prefix(Side $side): string
    {
        return match ($this) {
            self::Invoice => Side::Payables === $side ? 'VI' : 'CI',
            self::CreditNote => Side::Payables === $side ? 'VC' : 'CC',
            self::DebitNote => Side::Payables === $side ? 'VD' : 'CD',
            self::FinanceCharge => 'FC',
            self::Receipt => 'RC',
            self::Payment => 'PY',
            self::Refund => 'RF',
            self::RefundRequest => 'RQ',
            self::Claim => 'CL',
            self::HandOver => 'HO',
            self::Contra => 'NT',
            self::ToPrepayment, self::FromPrepayment => Side::Payables === $side ? 'VP' : 'CP',
            self::Prepayment => Side::Payables === $side ? 'PY' : 'RC',
        };
    }

    public function word(): string
    {
        return str_replace('_', ' ', $this->value);
    }
}
