<?php

declare(strict_types=1);

namespace Nelbix\Core\Charges;

use Nelbix\Core\Ledger\DraftLine;
use Nelbix\Core\Ledger\JournalDraft;

/**
 * The entry of a revaluation: monetary items in other currencies are taken at the closing rate, and the difference goes to profit or loss
 * (IAS 21.23 (a), 21.28). It stands on an account beside the control account, so that the party ledger keeps what was agreed; the next day
 * it is taken back, and what is settled later shows the whole difference from its first rate (21.29: the parts of each period add up).
 */
final class Revaluer
{
    /**
     * @param iterable<RevaluedItem> $items
     * @param array<string, int> $beside the revaluation account of each side, by side
     * @param int $unrealised the account of unrealised exchange differences
     */
    public static function entry(string $base, iterable $items, array $beside, int $unrealised): JournalDraft
    {
        $sums = [];
        foreach ($items as $item) {
            $key = $item->side->value.' '.$item->account.' '.$item->currency;
            $sums[$key] ??= [
                'account' => $beside[$item->side->value],
                'base' => 0,
                'text' => $item->currency.' at '.$item->rate,
            ];
            $sums[$key]['base'] += $item->gain();
        }
        ksort($sums);
        $lines = [];
        foreach ($sums as ['account' => $account, 'base' => $amount, 'text' => $text]) {
            $lines[] = new DraftLine($account, $amount, $amount, $text);
            $lines[] = new DraftLine($unrealised, -$amount, -$amount, $text);
        }

        return JournalDraft::of($base, $lines);
    }
}
