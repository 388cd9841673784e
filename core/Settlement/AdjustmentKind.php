<?php

declare(strict_types=1);

namespace Nelbix\Core\Settlement;

enum AdjustmentKind: string
{
    case Discount = 'discount';
    case WriteOff = 'write_off';
    case Withholding = 'withholding';
    case BadDebt = 'bad_debt';
    case BankCharge = 'bank_charge';
    case LateDiscount = 'late_discount';
    case Account = 'account';
    case Recovery = 'recovery';

    /** What somebody decides to let go, with a reason and up to a limit. Source: rules.md, Settlements, Short or over. */
    public function isGivenUp(): bool
    {
        return \in_array($this, [self::BadDebt, self::BankCharge, self::LateDiscount, self::Account], true);
    }

    /** What the bank kept says itself; the rest is somebody's decision, and somebody's words. */
    public function asksForReason(): bool
    {
        return $this->isGivenUp() && self::BankCharge !== $this;
    }

    public function word(): string
    {
        return match ($this) {
            self::WriteOff => 'small difference',
            self::LateDiscount => 'discount though late',
            self::Account => 'another account',
            self::Recovery => 'recovered',
            default => str_replace('_', ' ', $this->value),
        };
    }
}
