<?php

declare(strict_types=1);

namespace Nelbix\App\Money;

use Nelbix\App\Bank\BankAccounts;
use Nelbix\App\Bank\BankRow;
use Nelbix\App\Books\AdjustmentLimits;
use Nelbix\App\Books\AdjustmentRequest;
use Nelbix\App\Books\DiscountSteps;
use Nelbix\App\Books\Lookup;
use Nelbix\App\Books\OpenItemsQuery;
use Nelbix\App\Books\PlacementRequest;
use Nelbix\App\Books\SettlementRequest;
use Nelbix\App\Books\WhoSettled;
use Nelbix\App\Books\WithholdingRules;
use Nelbix\App\Parties\Party;
use Nelbix\App\Parties\PartyDetails;
use Nelbix\App\Platform\BooksDay;
use Nelbix\App\Platform\Desk;
use Nelbix\App\Platform\Fields;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Ledger\DocumentKind;
use Nelbix\Core\Ledger\Side;
use Nelbix\Core\Money\AmountInput;
use Nelbix\Core\Money\Currency;
use Nelbix\Core\Money\Money;
use Nelbix\Core\OpenItems\OpenItem;
use Nelbix\Core\Placement\Idea;
use Nelbix\Core\Placement\Placer;
use Nelbix\Core\ProblemKind;
use Nelbix\Core\ProblemList;
use Nelbix\Core\Refused;
use Nelbix\Core\Settlement\AdjustmentKind;

/**
 * Reads the board: bank, date, amount, party, and for each open item what is placed on it (gross), with how
 * much discount, and where the rest goes.
 *
 * @phpstan-import-type ItemRow from OpenItemsQuery
 */
final readonly class BoardReader
{
    public function __construct(
        private Lookup $lookup,
        private BooksDay $booksDay,
        private OpenItemsQuery $items,
        private PartyDetails $details,
        private DiscountSteps $discountSteps,
        private WithholdingRules $withholding,
        private WhoSettled $whoSettled,
        private AdjustmentLimits $limits,
        private BankAccounts $banks,
    ) {
    }

    /**
     * @param array<mixed> $raw party, bank, date, amount (empty on a payment: what is placed comes to), reference, method, kind,
     *                          placed[item], discount[item], rest[item] (owed or small);
     *                          _idea: the idea to place, counted from 1; _fit: the item to place all that fits on
     */
    public function read(Desk $desk, Side $side, BoardMode $mode, array $raw): Board
    {
        $problems = new ProblemList();
        $text = (new Fields($raw))->text(...);
        /** @var Party|null $party */
        $party = $problems->attempt(fn () => $this->lookup->party($desk->id(), $side, $text('party')));
        $stop =
            BoardMode::Payment === $mode && null !== $party
                ? $this->details->stopped($party->id(), 'payment', $desk->today)
                : null;
        if (null !== $party && null !== $stop) {
            $problems->add(
                'party',
                \sprintf('No payment to %s: %s. Take the stop away on its page first.', $party->name, $stop),
            );
        }
        $currency = $party->currency ?? $desk->company->baseCurrency;
        $of = Currency::of($currency);
        $date =
            '' === $text('date')
                ? $desk->today
                : $problems->attempt(fn (): Day => $this->booksDay->input($desk->id())->read($text('date'), 'date')) ??
                    $desk->today;
        $bank = $mode->hasMoney()
            ? $problems->attempt(fn (): BankRow => $this->banks->named($desk->id(), $text('bank')))
            : null;
        $amount = null;
        if ('' !== $text('amount') && $mode->hasMoney()) {
            $amount = $problems->attempt(static fn (): int => AmountInput::read($text('amount'), $of)->minor) ?? 0;
        } elseif (BoardMode::Receipt === $mode) {
            $problems->add('amount', 'The amount is missing; type what reached the bank.', ProblemKind::Missing);
        }
        $rows = [];
        foreach (null === $party ? [] : $this->items->ofParty($desk->id(), $side, $party->id(), $desk->today) as $row) {
            if ($row['currency'] === $currency) {
                foreach (['open', 'original', 'open_base', 'original_base'] as $key) {
                    $row[$key] = $mode->sign() * $row[$key];
                }
                $rows[$row['id']] = $row;
            }
        }
        $discounts = $this->discountSteps->open($desk->id(), $side, array_keys($rows));
        $core = array_map(
            static fn (array $row): OpenItem => new OpenItem(
                $row['id'],
                $side,
                $row['party_id'],
                DocumentKind::from($row['kind']),
                $row['number'],
                $row['account_id'],
                $currency,
                $row['original'],
                $row['original_base'],
                $row['open'],
                $row['open_base'],
                Day::of($row['posting_date']),
                Day::of($row['due_date']),
                $discounts[$row['id']] ?? null,
            ),
            $rows,
        );
        $ideas = Placer::ideas((int) $amount, $text('reference'), array_values($core), $date);
        $all = array_values(array_filter([...$ideas, Placer::oldestFirst((int) $amount, array_values($core), $date)]));
        $raw = $this->taken(
            $raw,
            $all[(int) $text('_idea') - 1] ?? null,
            $core,
            $of,
            $mode->hasMoney() ? $amount : 0,
            $date,
        );

        $placements = [];
        $adjustments = [];
        $placed = $taken = $small = $offer = $limits = $withheld = [];
        $rules = BoardMode::Payment === $mode ? $this->withholding->open($desk->id(), $side, array_keys($rows)) : [];
        foreach ($rows as $id => $row) {
            $offer[$id] = $core[$id]->discountOn($date);
            $limits[$id] = $this->limits->mostSmall($desk->actor, $core[$id]);
            $value = static fn (string $key): string => self::value($raw, $key, $id);
            if (null !== $row['reserved_by'] && '' !== $value('placed')) {
                $problems->add(
                    'placed.'.$id,
                    \sprintf(
                        '%s is reserved by payment proposal %s; drop it there first.',
                        $row['number'],
                        $row['reserved_by'],
                    ),
                );
                continue;
            }
            if (
                BoardMode::Payment === $mode
                && '' !== $value('placed')
                && $row['open'] > 0
                && ($row['held'] || \in_array($row['approval'], ['awaiting', 'refused'], true))
            ) {
                $problems->add(
                    'placed.'.$id,
                    \sprintf(
                        '%s %s; it cannot be paid until that is settled.',
                        $row['number'],
                        $row['held'] ? 'is held' : 'awaits approval',
                    ),
                );
                continue;
            }
            $gross =
                '' === $value('placed')
                    ? 0
                    : abs(
                        $problems->attempt(
                            static fn (): int => AmountInput::read($value('placed'), $of, 'placed.'.$id)->minor,
                        ) ?? 0,
                    );
            if (0 === $gross) {
                continue;
            }
            $rest = abs($row['open']) - $gross;
            if ($rest < 0) {
                $problems->add(
                    'placed.'.$id,
                    \sprintf(
                        '%s has %s open; place no more than that.',
                        $row['number'],
                        Money::of(abs($row['open']), $of)->decimal(),
                    ),
                );
                continue;
            }
            if ($rest > 0 && $row['open'] > 0 && 'small' === $value('rest')) {
                if ($rest > $limits[$id]) {
                    $problems->add(
                        'rest.'.$id,
                        \sprintf(
                            'A small difference on %s is at most %s, it is short of %s; leave that owed.',
                            $row['number'],
                            Money::of($limits[$id], $of)->decimal(),
                            Money::of($rest, $of)->decimal(),
                        ),
                    );
                } else {
                    $small[$id] = $rest;
                    $gross += $rest;
                    $adjustments[] = new AdjustmentRequest($id, AdjustmentKind::WriteOff, -$rest);
                }
            }
            $placed[$id] = $gross;
            $placements[] = new PlacementRequest($id, $mode->sign() * ($row['open'] < 0 ? -$gross : $gross));
            $discount =
                '' === $value('discount')
                    ? 0
                    : $problems->attempt(
                        static fn (): int => AmountInput::read($value('discount'), $of, 'discount.'.$id)->minor,
                    ) ?? 0;
            if ($discount < 0 || $discount > $offer[$id]) {
                $problems->add(
                    'discount.'.$id,
                    0 === $offer[$id]
                        ? \sprintf('No discount holds for %s on %s.', $row['number'], $date->long())
                        : \sprintf(
                            'The discount on %s is at most %s on %s.',
                            $row['number'],
                            Money::of($offer[$id], $of)->decimal(),
                            $date->long(),
                        ),
                );
            } elseif ($discount > 0) {
                $taken[$id] = $discount;
                $adjustments[] = new AdjustmentRequest($id, AdjustmentKind::Discount, -$discount);
            }
            $withheld[$id] =
                isset($rules[$id]) && $row['open'] > 0
                    ? $rules[$id]->on($gross - ($small[$id] ?? 0), $taken[$id] ?? 0, $gross === $row['open'])
                    : 0;
            if (0 !== $withheld[$id]) {
                $adjustments[] = new AdjustmentRequest($id, AdjustmentKind::Withholding, -$withheld[$id]);
            }
        }
        $this->stillOpen($desk, $raw, $rows, $problems);
        // a payment whose amount is not typed is what was chosen
        $amount ??= $mode->hasMoney()
            ? max(
                0,
                $mode->sign() * array_sum(array_column($placements, 'applied')) +
                    array_sum(array_column($adjustments, 'amount')),
            )
            : 0;
        if (BoardMode::Payment === $mode && 'hand' === $text('method') && '' === $text('number')) {
            $problems->add(
                'number',
                'The number of the check is missing; type what stands on it.',
                ProblemKind::Missing,
            );
        }
        $input =
            null === $party || null === $bank
                ? null
                : new MoneyInput(
                    $side,
                    $mode->kind('prepayment' === $text('kind')),
                    $party->id(),
                    $bank->id,
                    $date,
                    $currency,
                    $amount,
                    mb_substr(trim($text('number').' '.$text('reference')), 0, 120),
                    BoardMode::Payment === $mode && \in_array($text('method'), ['hand', 'wire', 'card'], true)
                        ? $text('method')
                        : (BoardMode::Payment === $mode
                            ? 'wire'
                            : 'transfer'),
                    $placements,
                    $adjustments,
                    answers: new Answers(
                        mb_substr($text('look_alike_reason'), 0, 255),
                        '' !== $text('day_meant'),
                        '' !== $text('more_than_there'),
                    ),
                );
        $request =
            $mode->hasMoney() || null === $party
                ? null
                : new SettlementRequest(
                    $side,
                    $placements,
                    $adjustments,
                    $date,
                    null,
                    null,
                    null,
                    'Settlement without money',
                );
        $at = isset($all[(int) $text('_idea') - 1]) ? (int) $text('_idea') : 0;

        return new Board(
            $side,
            $mode,
            $input,
            $request,
            $party,
            $currency,
            $date,
            $amount,
            array_values($rows),
            $core,
            $placed,
            $taken,
            $small,
            $withheld,
            $offer,
            $limits,
            $all,
            $at,
            \count($ideas),
            $raw,
            $problems->all,
        );
    }

    /**
     * The form after an idea was taken, or after Enter on a row, which places all that fits there with its part of the discount.
     *
     * @param array<mixed> $raw
     * @param array<int, OpenItem> $items
     *
     * @return array<mixed>
     */
    private function taken(array $raw, ?Idea $idea, array $items, Currency $of, ?int $amount, Day $date): array
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
            $left = $amount ?? \PHP_INT_MAX;
            foreach ($items as $id => $item) {
                try {
                    $read = static fn (string $key): int => '' === self::value($raw, $key, $id)
                        ? 0
                        : abs(AmountInput::read(self::value($raw, $key, $id), $of)->minor);
                    $left -= $id === $fit->id ? 0 : ($item->open > 0 ? 1 : -1) * ($read('placed') - $read('discount'));
                } catch (Refused) {
                    continue; // what cannot be read is named where it stands
                }
            }
            $part =
                $left <= 0
                    ? ['settled' => 0, 'discount' => 0]
                    : $fit->discount?->onPayment($fit->open, $left, $date) ?? [
                        'settled' => min($left, $fit->open),
                        'discount' => 0,
                    ];
            foreach (
                ['placed' => $part['settled'], 'discount' => min($part['discount'], $fit->discountOn($date))] as $key => $minor
            ) {
                $raw[$key] = \is_array($raw[$key] ?? null) ? $raw[$key] : [];
                $raw[$key][$fit->id] = 0 === $minor ? '' : Money::decimalOf($minor, $of->digits);
            }
        }

        return $raw;
    }

    /**
     * What somebody else settled while the page was open is refused; it never falls silently to unapplied.
     *
     * @param array<mixed> $raw
     * @param array<int, array<string, mixed>> $rows by item
     */
    private function stillOpen(Desk $desk, array $raw, array $rows, ProblemList $problems): void
    {
        foreach (\is_array($raw['placed'] ?? null) ? array_keys($raw['placed']) : [] as $id) {
            if (!isset($rows[$id]) && !\in_array(self::value($raw, 'placed', (int) $id), ['', '0'], true)) {
                $problems->add('placed.'.$id, $this->whoSettled->words($desk->id(), (int) $id));
            }
        }
    }

    /** @param array<mixed> $raw */
    private static function value(array $raw, string $key, int $id): string
    {
        return \is_array($raw[$key] ?? null) && \is_string($raw[$key][$id] ?? null) ? trim($raw[$key][$id]) : '';
    }
}
