<?php

declare(strict_types=1);

namespace Nelbix\Core\Ledger;

/** Closes a year: every income and expense account to zero, what they come to into retained earnings. Source: rules.md, Year. */
final class YearEndEntry
{
    /**
     * @param array<int, int> $balances of income and expense accounts, debit positive, base minor units, by account
     * @param int $retained the account of retained earnings
     */
    public static function of(string $base, array $balances, int $retained): JournalDraft
    {
        $lines = [];
        foreach (array_filter($balances) as $account => $balance) {
            $lines[] = new DraftLine($account, -$balance, -$balance);
        }
        $result = array_sum($balances);
        if (0 !== $result) {
            $lines[] = new DraftLine($retained, $result, $result);
        }

        return JournalDraft::of($base, $lines);
    }
}
