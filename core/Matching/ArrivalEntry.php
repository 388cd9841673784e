<?php

declare(strict_types=1);

namespace Nelbix\Core\Matching;

use Nelbix\Core\Ledger\Analysis;
use Nelbix\Core\Ledger\DraftLine;
use Nelbix\Core\Ledger\JournalDraft;
use Nelbix\Core\Money\Rounding;

/**
 * Drafts the entry of goods that come after their invoice: what was accrued for them leaves received-not-invoiced, what was invoiced
 * leaves invoiced-not-received; what the invoice said more or less is the price variance, and what the rate made of it an exchange
 * difference. Source: rules.md, Matching, and the table of events for goods and invoice, one after the other.
 */
final class ArrivalEntry
{
    /**
     * @param non-empty-list<array{received: int, accrued: Accrued, awaited: int, invoiced: Accrued, variance: int, exchange: int,
     *     text: string, analysis: Analysis}> $parts accounts of both controls, of variance and exchange differences, and what each
     *     part stood for on either
     */
    public static function draft(int $party, string $currency, array $parts): JournalDraft
    {
        $draft = [];
        foreach ($parts as $p) {
            [$accrued, $invoiced, $text] = [$p['accrued'], $p['invoiced'], $p['text']];
            $draft[] = new DraftLine($p['received'], $accrued->base, $accrued->amount, $text, new Analysis(), $party);
            $draft[] = new DraftLine(
                $p['awaited'],
                -$invoiced->base,
                -$invoiced->amount,
                $text,
                new Analysis(),
                $party,
            );
            // what was accrued, at the rate of the invoice
            $valued =
                0 === $invoiced->amount
                    ? $accrued->base
                    : Rounding::proportion($invoiced->base, $accrued->amount, $invoiced->amount);
            $draft[] = new DraftLine(
                $p['variance'],
                $invoiced->base - $valued,
                $invoiced->amount - $accrued->amount,
                $text,
                $p['analysis'],
            );
            $draft[] = new DraftLine($p['exchange'], $valued - $accrued->base, 0, $text);
        }

        return JournalDraft::of($currency, $draft);
    }
}
