<?php

declare(strict_types=1);

namespace Nelbix\Core\Proposal;

/**
 * Why an item is in a payment proposal or out of it. The outs stand in the order in which they are tried. Source: rules.md, Payment
 * proposal.
 */
enum Reason: string
{
    case Due = 'due';
    case Overdue = 'overdue';
    case DiscountAtStake = 'discount_at_stake';
    case Credit = 'credit';

    case Held = 'held';
    case Stopped = 'stopped';
    case OtherCurrency = 'other_currency';
    case OtherMethod = 'other_method';
    case Filtered = 'filtered';
    case Reserved = 'reserved';
    case AwaitingApproval = 'awaiting_approval';
    case PostedLater = 'posted_later';
    case NothingToSetAgainst = 'nothing_to_set_against';
    case NotDue = 'not_due';
    case BankDetails = 'bank_details';
    case CreditsCover = 'credits_cover';
    case BelowSmallest = 'below_smallest';
    case OverCash = 'over_cash';

    /** Whether a discount at stake is lost by leaving the item out: not when another proposal keeps it, nor in another currency's sum. */
    public function losesDiscount(): bool
    {
        return !\in_array($this, [self::OtherCurrency, self::Reserved], true);
    }

    /** In words, as a screen says it. */
    public function words(): string
    {
        return match ($this) {
            self::Due => 'due',
            self::Overdue => 'overdue',
            self::DiscountAtStake => 'discount would be lost',
            self::Credit => 'credit, lowers the payment',
            self::Held => 'held',
            self::Stopped => 'payments to this vendor are stopped',
            self::OtherCurrency => 'in another currency',
            self::OtherMethod => 'paid by another method',
            self::Filtered => 'not asked for',
            self::Reserved => 'in another proposal',
            self::AwaitingApproval => 'awaits approval',
            self::PostedLater => 'posted after the pay date',
            self::NothingToSetAgainst => 'a credit, and no invoice of the vendor is in',
            self::NotDue => 'not due yet',
            self::BankDetails => 'bank details missing or not yet confirmed',
            self::CreditsCover => 'credits cover it; settle without money',
            self::BelowSmallest => 'below the smallest payment',
            self::OverCash => 'over the cash to spend',
        };
    }
}
