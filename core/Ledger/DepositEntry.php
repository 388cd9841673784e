<?php

declare(strict_types=1);

namespace Nelbix\Core\Ledger;

/** Drafts the entry of checks and cash that go to the bank: bank against money on hand, a line each. Source: rules.md, Journal entries. */
final class DepositEntry
{
    /**
     * @param int $amount what goes to the bank, minor units of its currency; below zero for what the bank gives back
     * @param int $base the same in base minor units, as the receipts brought it, so no exchange difference arises
     */
    public static function draft(
        int $bank,
        int $onHand,
        string $currency,
        int $amount,
        int $base,
        string $text,
    ): JournalDraft {
        return JournalDraft::of($currency, [
            new DraftLine($bank, $base, $amount, $text),
            new DraftLine($onHand, -$base, -$amount, $text),
        ]);
    }
}
