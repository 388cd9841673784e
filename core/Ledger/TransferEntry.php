<?php

declare(strict_types=1);

namespace Nelbix\Core\Ledger;

/**
 * Drafts the entry of a document whose items move what is owed from one place to another without money: a claim, a refund
 * request, a move to prepayments and back, money handed over to its customer, a contra. Nothing is posted within one account of
 * one party. Source: rules.md, Transfers and Contra.
 */
final class TransferEntry
{
    /**
     * @param non-empty-list<TransferLeg> $legs
     *
     * @throws UnbalancedEntry when the legs do not balance
     */
    public static function draft(string $currency, array $legs, string $text): JournalDraft
    {
        $moved = [];
        foreach ($legs as $leg) {
            $sign = $leg->side->ledgerSign();
            $key = $leg->account.' '.$leg->party;
            $moved[$key] ??= ['account' => $leg->account, 'base' => 0, 'amount' => 0, 'party' => $leg->party];
            $moved[$key]['base'] += $sign * $leg->base;
            $moved[$key]['amount'] += $sign * $leg->amount;
        }

        return JournalDraft::of(
            $currency,
            array_map(
                static fn (array $m): DraftLine => new DraftLine(
                    $m['account'],
                    $m['base'],
                    $m['amount'],
                    $text,
                    new Analysis(),
                    $m['party'],
                ),
                array_values($moved),
            ),
        );
    }
}
