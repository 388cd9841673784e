<?php

declare(strict_types=1);

namespace Nelbix\Core\Settlement;

use Brick\Math\BigDecimal;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Ledger\Analysis;
use Nelbix\Core\Ledger\DraftLine;
use Nelbix\Core\Ledger\InvoiceEntry;
use Nelbix\Core\Ledger\JournalDraft;
use Nelbix\Core\OpenItems\OpenItem;
use Nelbix\Core\Refused;

/** Sets items of one party, side and currency off against each other. Source: rules.md, Settlements. */
final readonly class Settler
{
    /** @param int $exchangeAccount realised exchange gains / losses */
    public function __construct(private string $baseCurrency, private int $exchangeAccount)
    {
    }

    /**
     * @param list<Placement> $placements applied in the item's own sign, between zero and open
     * @param list<Adjustment> $adjustments opposite sign of the item they help to close
     * @param Day $date not before the latest posting date of the items
     * @param BigDecimal $rate base units per unit: the money's rate, without money the rate on $date
     *
     * @throws Refused when a rule is broken; the message names the item
     */
    public function settle(
        array $placements,
        array $adjustments,
        Day $date,
        BigDecimal $rate,
        string $text,
    ): SettlementDraft {
        if ([] === $placements) {
            throw Refused::because('items', 'Nothing is placed; place an amount on at least one item.');
        }
        $first = $placements[0]->item;
        $lines = [];
        $sum = 0;
        foreach ($placements as $placement) {
            [$item, $applied] = [$placement->item, $placement->applied];
            $this->check($item, $applied, $first, $date);
            if (isset($lines[$item->id])) {
                throw Refused::because(
                    'items',
                    \sprintf('%s is named twice; name it once with the whole amount.', $item->number),
                );
            }
            $lines[$item->id] = new AppliedLine($item, $applied, $item->baseOf($applied));
            $sum += $applied;
        }
        $signs = [];
        foreach ($adjustments as $adjustment) {
            $line =
                $lines[$adjustment->item] ??
                throw Refused::because(
                    'adjustments',
                    'A discount or write-off must belong to an item that is settled here.',
                );
            if (0 === $adjustment->amount || $adjustment->amount > 0 === $line->applied > 0) {
                throw Refused::because(
                    'adjustments',
                    \sprintf(
                        'The %s on %s must be between zero and what is settled.',
                        str_replace('_', ' ', $adjustment->kind->value),
                        $line->item->number,
                    ),
                );
            }
            $signs[$adjustment->item] = ($signs[$adjustment->item] ?? 0) + $adjustment->amount;
            if (abs($signs[$adjustment->item]) > abs($line->applied)) {
                throw Refused::because(
                    'adjustments',
                    \sprintf('Discount and write-off on %s are more than what is settled on it.', $line->item->number),
                );
            }
            $sum += $adjustment->amount;
        }
        if (0 !== $sum) {
            throw Refused::because(
                'amount',
                \sprintf(
                    'What is placed and what it is placed on differ by %s %s; they must be equal.',
                    \Nelbix\Core\Money\Money::of(abs($sum), $first->currency)->decimal(),
                    $first->currency,
                ),
            );
        }

        return $this->draft(array_values($lines), $adjustments, $rate, $text);
    }

    /**
     * @param list<AppliedLine> $lines
     * @param list<Adjustment> $adjustments
     */
    private function draft(array $lines, array $adjustments, BigDecimal $rate, string $text): SettlementDraft
    {
        $first = $lines[0]->item;
        $direction = $first->side->ledgerSign();
        $controls = [];
        $imbalance = 0;
        foreach ($lines as $line) {
            $account = $line->item->account;
            $controls[$account]['base'] = ($controls[$account]['base'] ?? 0) - $direction * $line->appliedBase;
            $controls[$account]['amount'] = ($controls[$account]['amount'] ?? 0) - $direction * $line->applied;
            $imbalance -= $direction * $line->appliedBase;
        }
        $draft = [];
        foreach ($controls as $account => $c) {
            $draft[] = new DraftLine($account, $c['base'], $c['amount'], $text, new Analysis(), $first->party);
        }
        $valued = [];
        foreach ($adjustments as $adjustment) {
            $base = $this->value($adjustment->amount, $first->currency, $rate);
            $left = $adjustment->amount;
            $leftBase = $base;
            foreach ($adjustment->parts as $part) {
                $partBase = $part['base'] ?? $this->value($part['amount'], $first->currency, $rate);
                $draft[] = new DraftLine(
                    $part['account'],
                    -$direction * $partBase,
                    -$direction * $part['amount'],
                    $text,
                );
                $left -= $part['amount'];
                $leftBase -= $partBase;
            }
            // tax corrected at the invoice's rate does not change what the discount itself is worth
            $ownBase = [] === $adjustment->parts ? $base : $this->value($left, $first->currency, $rate);
            $draft[] = new DraftLine($adjustment->account, -$direction * $ownBase, -$direction * $left, $text);
            $valued[] = ['adjustment' => $adjustment, 'base' => $base - $leftBase + $ownBase];
            $imbalance -= $direction * ($base - $leftBase + $ownBase);
        }
        $draft[] = new DraftLine($this->exchangeAccount, -$imbalance, 0, $text);

        return new SettlementDraft($lines, $valued, -$imbalance, JournalDraft::of($first->currency, $draft));
    }

    private function value(int $amount, string $currency, BigDecimal $rate): int
    {
        return $amount < 0
            ? -InvoiceEntry::base(-$amount, $currency, $this->baseCurrency, $rate)
            : InvoiceEntry::base($amount, $currency, $this->baseCurrency, $rate);
    }

    private function check(OpenItem $item, int $applied, OpenItem $first, Day $date): void
    {
        if ($item->party !== $first->party || $item->side !== $first->side || $item->currency !== $first->currency) {
            throw Refused::because(
                'items',
                \sprintf(
                    '%s belongs to another party, side or currency than %s; settle them apart.',
                    $item->number,
                    $first->number,
                ),
            );
        }
        if (0 === $applied || $applied > 0 !== $item->open > 0 || abs($applied) > abs($item->open)) {
            throw Refused::because(
                'applied',
                \sprintf(
                    '%s has %s %s open; place an amount between zero and that.',
                    $item->number,
                    \Nelbix\Core\Money\Money::of(abs($item->open), $item->currency)->decimal(),
                    $item->currency,
                ),
            );
        }
        if ($date->isBefore($item->posted)) {
            throw Refused::because(
                'date',
                \sprintf(
                    '%s was posted on %s; the settlement cannot be dated before that.',
                    $item->number,
                    $item->posted->long(),
                ),
            );
        }
    }
}
