<?php

declare(strict_types=1);

namespace Nelbix\App\Receivables;

use Doctrine\DBAL\Connection;
use Nelbix\App\Documents\Lookup;
use Nelbix\App\Documents\OpenItemsQuery;
use Nelbix\App\Parties\Party;
use Nelbix\App\Platform\BooksDay;
use Nelbix\App\Platform\Desk;
use Nelbix\App\Platform\Settings;
use Nelbix\App\Settlement\MoneyInput;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Ledger\DocumentKind;
use Nelbix\Core\Ledger\Side;
use Nelbix\Core\Money\AmountInput;
use Nelbix\Core\Money\Currency;
use Nelbix\Core\Money\Money;
use Nelbix\Core\OpenItems\OpenItem;
use Nelbix\Core\ProblemList;
use Nelbix\Core\Settlement\AdjustmentKind;
use Nelbix\Core\Terms\EarlyDiscount;

/**
 * Reads the receipt board: bank, date, amount, customer, and for each open item what is placed on it (gross), with how
 * much discount, and whether the short rest is a small difference.
 *
 * @phpstan-import-type ItemRow from OpenItemsQuery
 */
final readonly class ReceiptReader
{
    public function __construct(private Lookup $lookup, private BooksDay $booksDay, private OpenItemsQuery $items, private Settings $settings, private Connection $db)
    {
    }

    /**
     * @param array<mixed> $raw customer, bank, date, amount, reference, kind, placed[item], discount[item], write_off[item]
     */
    public function read(Desk $desk, array $raw): ReceiptBoard
    {
        $problems = new ProblemList();
        $text = static fn (string $key): string => \is_scalar($raw[$key] ?? null) ? trim((string) $raw[$key]) : '';
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
        $core = [];
        foreach (null === $party ? [] : $this->items->ofParty($desk->id(), Side::Receivables, $party->id(), $desk->today) as $row) {
            if ($row['currency'] !== $currency) {
                continue;
            }
            $rows[$row['id']] = $row;
            $core[$row['id']] = new OpenItem($row['id'], Side::Receivables, $row['party_id'], DocumentKind::from($row['kind']), $row['number'], $row['account_id'], $currency, $row['original'], $row['original'], $row['open'], $row['open_base'], Day::of($row['posting_date']), Day::of($row['due_date']));
        }
        $discounts = $this->discounts(array_keys($rows));
        $placements = [];
        $adjustments = [];
        $placed = $taken = $small = $offer = [];
        foreach ($rows as $id => $row) {
            $offer[$id] = $row['open'] > 0 && isset($discounts[$id]) ? $discounts[$id]->onFull($row['open'], $date) : 0;
            $value = static fn (string $key): string => \is_array($raw[$key] ?? null) && \is_string($raw[$key][$id] ?? null) ? trim($raw[$key][$id]) : '';
            if ('' === $value('placed')) {
                continue;
            }
            $gross = abs($problems->attempt(static fn (): int => AmountInput::read($value('placed'), $of, 'placed.'.$id)->minor) ?? 0);
            if (0 === $gross) {
                continue;
            }
            if ($gross > abs($row['open'])) {
                $problems->add('placed.'.$id, \sprintf('%s has %s open; place no more than that.', $row['number'], Money::of(abs($row['open']), $of)->decimal()));
                continue;
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
            $writeOff = '' === $value('write_off') ? 0 : ($problems->attempt(static fn (): int => AmountInput::read($value('write_off'), $of, 'write_off.'.$id)->minor) ?? 0);
            $limit = $this->settings->of($desk->id())->smallDifference($row['original'], $desk->company->baseCurrency);
            if ($writeOff < 0 || $writeOff > $limit) {
                $problems->add('write_off.'.$id, \sprintf('A small difference on %s is at most %s; leave the rest owed.', $row['number'], Money::of($limit, $of)->decimal()));
            } elseif ($writeOff > 0) {
                $small[$id] = $writeOff;
                $adjustments[] = ['item' => $id, 'kind' => AdjustmentKind::WriteOff, 'amount' => -$writeOff];
            }
        }
        $input = null === $party || false === $bank ? null : new MoneyInput(
            Side::Receivables, 'prepayment' === $text('kind') ? DocumentKind::Prepayment : DocumentKind::Receipt, $party->id(), (int) $bank['id'], $date, $currency, $amount,
            mb_substr($text('reference'), 0, 120), 'transfer', $placements, $adjustments,
        );

        return new ReceiptBoard($input, $party, $currency, $date, $amount, array_values($rows), $core, $placed, $taken, $small, $offer, $problems->all);
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
