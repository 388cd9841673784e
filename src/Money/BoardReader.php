<?php

declare(strict_types=1);

namespace Nelbix\App\Money;

use Nelbix\App\Bank\BankAccounts;
use Nelbix\App\Bank\BankRow;
use Nelbix\App\Books\AdjustmentLimits;
use Nelbix\App\Books\Lookup;
use Nelbix\App\Books\OpenItemsQuery;
use Nelbix\App\Books\SettlementRequest;
use Nelbix\App\Books\WhoSettled;
use Nelbix\App\Books\WithholdingRules;
use Nelbix\App\Parties\Party;
use Nelbix\App\Parties\PartyDetails;
use Nelbix\App\Platform\BooksDay;
use Nelbix\App\Platform\Desk;
use Nelbix\App\Platform\Fields;
use Nelbix\Core\Calendar\Day;
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
        private BoardItems $items,
        private PartyDetails $details,
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
        $open = $this->items->of($desk, $side, $mode, $party, $text('currency'));
        [$currency, $rows, $core] = [$open->currency, $open->rows, $open->items];
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

        $offer = array_map(static fn (OpenItem $i): int => $i->discountOn($date), $core);
        $limits = array_map(fn (OpenItem $i): int => $this->limits->mostSmall($desk->actor, $i), $core);
        $rules = BoardMode::Payment === $mode ? $this->withholding->open($desk->id(), $side, array_keys($rows)) : [];
        $placing = new BoardPlacing($side, $mode, $currency, $date, $raw, $offer, $limits, $rules, $problems);
        array_map($placing->read(...), $rows);
        $this->stillOpen($desk, $raw, $open, $problems);
        // a payment whose amount is not typed is what was chosen
        $amount ??= $mode->hasMoney()
            ? max(
                0,
                $mode->sign() * array_sum(array_column($placing->placements, 'applied')) +
                    array_sum(array_column($placing->adjustments, 'amount')),
            )
            : 0;
        if (BoardMode::Payment === $mode && 'hand' === $text('method') && '' === $text('number')) {
            $problems->add(
                'number',
                'The number of the check is missing; type what stands on it.',
                ProblemKind::Missing,
            );
        }
        if (mb_strlen($text('their_reference')) > 60) {
            $problems->add('their_reference', 'A reference of the bank has at most 60 characters; shorten it.');
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
                    mb_substr(
                        trim(('print' === $text('method') ? '' : $text('number').' ').$text('reference')),
                        0,
                        120,
                    ),
                    Method::chosen($mode, $text('method'))->value,
                    $placing->placements,
                    $placing->adjustments,
                    answers: new Answers(
                        mb_substr($text('look_alike_reason'), 0, 255),
                        '' !== $text('day_meant'),
                        '' !== $text('more_than_there'),
                    ),
                    theirReference: BoardMode::Payment === $mode ? '' : $text('their_reference'),
                );
        $request =
            $mode->hasMoney() || null === $party
                ? null
                : new SettlementRequest(
                    $side,
                    $placing->placements,
                    $placing->adjustments,
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
            $open->currencies,
            $date,
            $amount,
            array_values($rows),
            $core,
            $placing->placed,
            $placing->taken,
            $placing->small,
            $placing->withheld,
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
        if (null !== $fit && $fit->open < 0) {
            // a credit that one comes from is used, all of it; what it is placed on is said next
            $raw['placed'] = \is_array($raw['placed'] ?? null) ? $raw['placed'] : [];
            $raw['placed'][$fit->id] = Money::decimalOf(-$fit->open, $of->digits);
        }
        if (null !== $fit && $fit->open > 0) {
            $left = $amount ?? \PHP_INT_MAX;
            foreach ($items as $id => $item) {
                try {
                    $read = static fn (string $key): int => '' === BoardPlacing::value($raw, $key, $id)
                        ? 0
                        : abs(AmountInput::read(BoardPlacing::value($raw, $key, $id), $of)->minor);
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
     */
    private function stillOpen(Desk $desk, array $raw, BoardRows $open, ProblemList $problems): void
    {
        foreach (\is_array($raw['placed'] ?? null) ? array_keys($raw['placed']) : [] as $id) {
            // what is open in another currency was left by choosing this one
            $here = isset($open->rows[$id]) || \in_array($id, $open->elsewhere, true);
            if (!$here && !\in_array(BoardPlacing::value($raw, 'placed', (int) $id), ['', '0'], true)) {
                $problems->add('placed.'.$id, $this->whoSettled->words($desk->id(), (int) $id));
            }
        }
    }
}
