<?php

declare(strict_types=1);

namespace Nelbix\Core\Ledger;

/** Drafts the entry of money that moved: bank against the control or prepayment account. Source: rules.md, Journal entries. */
final class MoneyEntry
{
    /**
     * @param list<MoneyPart> $parts what it settles, a part for each of its items
     * @param int $bankBase what moved at the bank, base minor units; the rest is a realised exchange difference
     */
    public static function draft(
        Side $side,
        int $bank,
        int $exchange,
        string $text,
        string $currency,
        array $parts,
        int $bankBase,
    ): JournalDraft {
        $direction = -$side->ledgerSign(); // money lowers what is owed
        $amount = array_sum(array_column($parts, 'amount'));
        $base = array_sum(array_column($parts, 'base'));

        return JournalDraft::of($currency, [
            new DraftLine($bank, -$direction * $bankBase, -$direction * $amount, $text),
            ...array_map(
                static fn (MoneyPart $p): DraftLine => new DraftLine(
                    $p->account,
                    $direction * $p->base,
                    $direction * $p->amount,
                    $text,
                    new Analysis(),
                    $p->party,
                ),
                $parts,
            ),
            new DraftLine($exchange, -$direction * ($base - $bankBase), 0, $text),
        ]);
    }
}
