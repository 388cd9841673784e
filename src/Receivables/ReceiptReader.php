<?php

declare(strict_types=1);

namespace Nelbix\App\Receivables;

use Doctrine\DBAL\Connection;
use Nelbix\App\Documents\Lookup;
use Nelbix\App\Documents\OpenItemsQuery;
use Nelbix\App\Parties\Party;
use Nelbix\App\Platform\BooksDay;
use Nelbix\App\Platform\Desk;
use Nelbix\App\Platform\Fields;
use Nelbix\App\Platform\Settings;
use Nelbix\App\Settlement\MoneyInput;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Ledger\DocumentKind;
use Nelbix\Core\Ledger\Side;
use Nelbix\Core\Money\AmountInput;
use Nelbix\Core\Money\Currency;
use Nelbix\Core\Money\Money;
use Nelbix\Core\OpenItems\OpenItem;
use Nelbix\Core\Placement\Idea;
use Nelbix\Core\Placement\Placer;
use Nelbix\Core\ProblemList;
use Nelbix\Core\Refused;
use Nelbix\Core\Settlement\AdjustmentKind;
use Nelbix\Core\Terms\EarlyDiscount;

/**
 * Reads the receipt board: bank, date, amount, customer, and for each open item what is placed on it (gross), with how
 * much discount, and where the rest goes.
 *
 * @phpstan-import-type ItemRow from OpenItemsQuery
 */
final readonly class ReceiptReader
{
    public function __construct(private Lookup $lookup, private BooksDay $booksDay, private OpenItemsQuery $items, private Settings $settings, private Connection $db)
    {
    }

    /**
     * @param array<mixed> $raw party, bank, date, amount, reference, kind, placed[item], discount[item], rest[item] (owed or small);
     *                          _idea: the idea to place, counted from 1; _fit: the item to place all that fits on
     */
    public function read(Desk $desk, array $raw): ReceiptBoard
    {
        $problems = new ProblemList();
        $text = (new Fields($raw))->text(...);
        /** @var Party|null $party */
        $party = $problems->attempt(fn () => $this->lookup->party($desk->id(), Side::Receivables, $text('party')));
        $currency = $party->currency ?? $desk->company->baseCurrency;
        $of = Currency::of($currency);
        $date = '' === $text('date') ? $desk->today : ($problems->attempt(fn (): Day => $this->booksDay->input($desk->id())->read($text('date'), 'date')) ?? $desk->today);
        $bank = $this->db->fetchAssociative('SELECT id, code, name FROM bank_account WHERE company_id = ? AND retired = 0 AND (code = ? OR ? = \'\') ORDER BY code LIMIT 1', [$desk->id(), $text('bank'), $text('bank')]);
        if (false === $bank) {
            $problems->add('bank', \sprintf('There is no bank account “%s”; choose one from the list.', mb_strimwidth($text('bank'), 0, 20, '…')));
        }
        $amount = 0;
        if ('' === $text('amount')) {
            $problems->add('amount', 'The amount is missing; type what reached the bank.');
        } else {
            $amount = $problems->attempt(static fn (): int => AmountInput::read($text('amount'), $of)->minor) ?? 0;
        }
        $rows = [];
        foreach (null === $party ? [] : $this->items->ofParty($desk->id(), Side::Receivables, $party->id(), $desk->today) as $row) {
            if ($row['currency'] === $currency) {
                $rows[$row['id']] = $row;
            }
        }
        $discounts = $this->discounts(array_keys($rows));
        $core = array_map(static fn (array $row): OpenItem => new OpenItem($row['id'], Side::Receivables, $row['party_id'], DocumentKind::from($row['kind']), $row['number'], $row['account_id'], $currency, $row['original'], $row['original'], $row['open'], $row['open_base'], Day::of($row['posting_date']), Day::of($row['due_date']), $discounts[$row['id']] ?? null), $rows);
        $ideas = Placer::ideas($amount, $text('reference'), array_values($core), $date);
        $all = array_values(array_filter([...$ideas, Placer::oldestFirst($amount, array_values($core), $date)]));
        $raw = $this->taken($raw, $all[(int) $text('_idea') - 1] ?? null, $core, $of, $amount, $date);

        $placements = [];
        $adjustments = [];
        $placed = $taken = $small = $offer = $limits = [];
        $settings = $this->settings->of($desk->id());
        foreach ($rows as $id => $row) {
            $offer[$id] = $core[$id]->discountOn($date);
            $limits[$id] = $settings->smallDifference($row['original'], $desk->company->baseCurrency);
            $value = static fn (string $key): string => self::value($raw, $key, $id);
            $gross = '' === $value('placed') ? 0 : abs($problems->attempt(static fn (): int => AmountInput::read($value('placed'), $of, 'placed.'.$id)->minor) ?? 0);
            if (0 === $gross) {
                continue;
            }
            $rest = abs($row['open']) - $gross;
            if ($rest < 0) {
                $problems->add('placed.'.$id, \sprintf('%s has %s open; place no more than that.', $row['number'], Money::of(abs($row['open']), $of)->decimal()));
                continue;
            }
            if ($rest > 0 && $row['open'] > 0 && 'small' === $value('rest')) {
                if ($rest > $limits[$id]) {
                    $problems->add('rest.'.$id, \sprintf('A small difference on %s is at most %s, it is short of %s; leave that owed.', $row['number'], Money::of($limits[$id], $of)->decimal(), Money::of($rest, $of)->decimal()));
                } else {
                    $small[$id] = $rest;
                    $gross += $rest;
                    $adjustments[] = ['item' => $id, 'kind' => AdjustmentKind::WriteOff, 'amount' => -$rest];
                }
            }
            $placed[$id] = $gross;
            $placements[] = ['item' => $id, 'applied' => $row['open'] < 0 ? -$gross : $gross];
            $discount = '' === $value('discount') ? 0 : ($problems->attempt(static fn (): int => AmountInput::read($value('discount'), $of, 'discount.'.$id)->minor) ?? 0);
            if ($discount < 0 || $discount > $offer[$id]) {
                $problems->add('discount.'.$id, 0 === $offer[$id] ? \sprintf('No discount holds for %s on %s.', $row['number'], $date->long()) : \sprintf('The discount on %s is at most %s on %s.', $row['number'], Money::of($offer[$id], $of)->decimal(), $date->long()));
            } elseif ($discount > 0) {
                $taken[$id] = $discount;
                $adjustments[] = ['item' => $id, 'kind' => AdjustmentKind::Discount, 'amount' => -$discount];
            }
        }
        $input = null === $party || false === $bank ? null : new MoneyInput(
            Side::Receivables, 'prepayment' === $text('kind') ? DocumentKind::Prepayment : DocumentKind::Receipt, $party->id(), (int) $bank['id'], $date, $currency, $amount,
            mb_substr($text('reference'), 0, 120), 'transfer', $placements, $adjustments,
        );
        $at = isset($all[(int) $text('_idea') - 1]) ? (int) $text('_idea') : 0;

        return new ReceiptBoard($input, $party, $currency, $date, $amount, array_values($rows), $core, $placed, $taken, $small, $offer, $limits, $all, $at, \count($ideas), $raw, $problems->all);
    }

    /**
     * The form after an idea was taken, or after Enter on a row, which places all that fits there with its part of the discount.
     *
     * @param array<mixed>         $raw
     * @param array<int, OpenItem> $items
     *
     * @return array<mixed>
     */
    private function taken(array $raw, ?Idea $idea, array $items, Currency $of, int $amount, Day $date): array
    {
        if (null !== $idea) {
            $raw['placed'] = $raw['discount'] = $raw['rest'] = [];
            foreach ($idea->placed as $id => $p) {
                $raw['placed'][$id] = Money::decimalOf($p['gross'], $of->digits);
                $raw['discount'][$id] = 0 === $p['discount'] ? '' : Money::decimalOf($p['discount'], $of->digits);
            }
        }
        $fit = $items[(int) (\is_string($raw['_fit'] ?? null) ? $raw['_fit'] : 0)] ?? null;
        if (null !== $fit && $fit->open > 0) {
            $left = $amount;
            foreach ($items as $id => $item) {
                try {
                    $read = static fn (string $key): int => '' === self::value($raw, $key, $id) ? 0 : abs(AmountInput::read(self::value($raw, $key, $id), $of)->minor);
                    $left -= $id === $fit->id ? 0 : ($item->open > 0 ? 1 : -1) * ($read('placed') - $read('discount'));
                } catch (Refused) {
                    continue; // what cannot be read is named where it stands
                }
            }
            $part = $left <= 0 ? ['settled' => 0, 'discount' => 0] : ($fit->discount?->onPayment($fit->open, $left, $date) ?? ['settled' => min($left, $fit->open), 'discount' => 0]);
            foreach (['placed' => $part['settled'], 'discount' => min($part['discount'], $fit->discountOn($date))] as $key => $minor) {
                $raw[$key] = \is_array($raw[$key] ?? null) ? $raw[$key] : [];
                $raw[$key][$fit->id] = 0 === $minor ? '' : Money::decimalOf($minor, $of->digits);
            }
        }

        return $raw;
    }

    /** @param array<mixed> $raw */
    private static function value(array $raw, string $key, int $id): string
    {
        return \is_array($raw[$key] ?? null) && \is_string($raw[$key][$id] ?? null) ? trim($raw[$key][$id]) : '';
    }

    /**
     * @param list<int> $ids
     *
     * @return array<int, EarlyDiscount>
     */
    private function discounts(array $ids): array
    {
        if ([] === $ids) {
            return [];
        }
        $rows = [];
        foreach ($this->db->fetchAllAssociative('SELECT x.item_id, x.through, x.percent, x.amount, i.original, i.discount_base, i.grace_days FROM item_discount x JOIN open_item i ON i.id = x.item_id WHERE x.item_id IN ('.implode(',', $ids).') ORDER BY x.item_id, x.through') as $r) {
            $rows[(int) $r['item_id']][] = $r;
        }

        return array_map(static fn (array $steps): EarlyDiscount => new EarlyDiscount((int) $steps[0]['original'], (int) $steps[0]['discount_base'], array_map(static fn (array $r): \Nelbix\Core\Terms\DatedDiscount => new \Nelbix\Core\Terms\DatedDiscount(Day::of((string) $r['through']), \Brick\Math\BigDecimal::of($r['percent']), (int) $r['amount']), $steps), (int) $steps[0]['grace_days']), $rows);
    }
}
