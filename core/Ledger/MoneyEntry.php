<?php

declare(strict_types=1);

namespace Nelbix\Core\Ledger;

/** Drafts the entry of money that moved: bank against the control or prepayment account. Source: rules.md, Journal entries. */
final class MoneyEntry
{
    /**
     * @param int $control account of the money's items
     * @param int $amount what it settles, positive, in $currency minor units
     * @param int $base what it settles, positive, base minor units
     * @param int $bankBase what moved at the bank, base minor units; the rest is a realised exchange difference
     */
    public static function draft(
        Side $side,
        int $control,
        int $bank,
        int $exchange,
        int $party,
        string $text,
        string $currency,
        int $amount,
        int $base,
        int $bankBase,
    ): JournalDraft {
        $direction = -$side->ledgerSign(); // money lowers what is owed

        return JournalDraft::of($currency, [
            new DraftLine($bank, -$direction * $bankBase, -$direction * $amount, $text),
            new DraftLine($control, $direction * $base, $direction * $amount, $text, new Analysis(), $party),
            new DraftLine($exchange, -$direction * ($base - $bankBase), 0, $text),
        ]);
    }
}
