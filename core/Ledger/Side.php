<?php

declare(strict_types=1);

namespace Nelbix\Core\Ledger;

/** The two party ledgers. A positive item raises what is owed: to the company in receivables, by it in payables. */
enum Side: string
{
    case Payables = 'payables';
    case Receivables = 'receivables';

    /**
     * Turns an amount in the item's sign into ledger sign (debit +, credit −). Nothing else decides debit and credit
     * of a party's money.
     */
    public function ledgerSign(): int
    {
        return self::Receivables === $this ? 1 : -1;
    }

    public function other(): self
    {
        return self::Receivables === $this ? self::Payables : self::Receivables;
    }

    public function partyWord(): string
    {
        return self::Receivables === $this ? 'customer' : 'vendor';
    }

    public function controlRole(): AccountRole
    {
        return self::Receivables === $this ? AccountRole::Receivables : AccountRole::Payables;
    }

    public function prepaymentRole(): AccountRole
    {
        return self::Receivables === $this ? AccountRole::CustomerPrepayments : AccountRole::VendorPrepayments;
    }

    public function discountRole(): AccountRole
    {
        return self::Receivables === $this ? AccountRole::DiscountsAllowed : AccountRole::DiscountsReceived;
    }

    public function withholdingRole(): AccountRole
    {
        return self::Receivables === $this ? AccountRole::WithholdingRecoverable : AccountRole::WithholdingPayable;
    }
}
