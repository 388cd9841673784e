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
use Nelbix\App\Ledger\Chart;
use Nelbix\App\Parties\Nobody;
use Nelbix\App\Parties\Party;
use Nelbix\App\Parties\PartyDetails;
use Nelbix\App\Platform\BooksDay;
use Nelbix\App\Platform\Desk;
use Nelbix\App\Platform\Fields;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Ledger\Side;
use Nelbix\Core\OpenItems\OpenItem;
use Nelbix\Core\Placement\Placer;
use Nelbix\Core\ProblemKind;
use Nelbix\Core\ProblemList;
use Nelbix\Core\Tax\Withholding;

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
        private BoardLimits $boardLimits,
        private BoardMoney $boardMoney,
        private Chart $chart,
        private BankAccounts $banks,
        private Nobody $nobody,
        private PrepaymentRequests $requests,
    ) {
    }

    /**
     * @param array<mixed> $raw party, also (codes of other customers), bank, date, amount (empty: what is placed comes to), bank_amount,
     *                          reference, method, kind (unapplied, prepayment, refund, account) with kind_account and kind_reason,
     *                          placed[item], discount[item], rest[item] with what belongs to it (see BoardShelf);
     *                          marked: what a customer's list marks, item:amount,…
     *                          _idea: the idea to place, counted from 1; _fit: items to place all that fits on
     */
    public function read(Desk $desk, Side $side, BoardMode $mode, array $raw): Board
    {
        $problems = new ProblemList();
        $text = (new Fields($raw))->text(...);
        $party = $this->party($desk, $side, $mode, $text('party'), $problems);
        $also = $this->also($desk, $mode, $party, $text('also').','.$text('also_more'), $problems);
        $bank = $mode->hasMoney()
            ? $problems->attempt(fn (): BankRow => $this->banks->named($desk->id(), $text('bank')))
            : null;
        $chosen = true === $party?->nobody ? (string) $bank?->currency : $text('currency');
        $open = $this->items->of($desk, $side, $mode, [$party, ...array_values($also)], $chosen);
        [$currency, $rows, $core] = [$open->currency, $open->rows, $open->items];
        $date =
            '' === $text('date')
                ? $desk->today
                : $problems->attempt(fn (): Day => $this->booksDay->input($desk->id())->read($text('date'), 'date')) ??
                    $desk->today;
        $amount = BoardMoney::typed($text('amount'), $mode, $currency, 'amount', $problems);
        $asked =
            BoardMode::Receipt === $mode && null !== $party && !$party->nobody
                ? $this->requests->openOf($party->id(), $currency)
                : [];
        $ideas = Placer::ideas(
            (int) $amount,
            $text('reference'),
            array_values($core),
            $date,
            BoardMode::Receipt === $mode ? $this->boardLimits->mostCharge($desk, $currency, $date) : 0,
            self::marked($text('marked')),
            array_column($asked, 'amount'),
        );
        $all = array_values(array_filter([...$ideas, Placer::oldestFirst((int) $amount, array_values($core), $date)]));
        $at = isset($all[(int) $text('_idea') - 1]) ? (int) $text('_idea') : 0;
        $free = array_filter($core, static fn (OpenItem $i): bool => null === BoardPlacing::kept($side, $rows[$i->id]));
        $money = $mode->hasMoney() ? $date : null;
        $raw = (new BoardTaken($free, $currency, $mode->hasMoney() ? $amount : 0, $money, $asked))->in(
            $raw,
            $all[$at - 1] ?? null,
        );

        $paid = BoardTaken::paidOn($money, $core, $raw);
        $offer = array_map(static fn (OpenItem $i): int => null === $paid ? 0 : $i->discountOn($paid), $core);
        $lapsed = array_map(
            static fn (OpenItem $i): int => null === $paid || $i->open <= 0
                ? 0
                : $i->discount?->lapsed($i->open, $i->open, $paid) ?? 0,
            $core,
        );
        $limits = array_map(fn (OpenItem $i): int => $this->limits->mostSmall($desk->actor, $i), $core);
        $withholds =
            [] !==
            array_filter(
                [$party, ...array_values($also)],
                static fn (?Party $p): bool => null !== $p?->withholdingPercent,
            );
        $rules = $mode->hasMoney() && $withholds ? $this->withholding->open($desk->id(), $side, array_keys($rows)) : [];
        $withheld = BoardMode::Receipt === $mode ? self::mostWithheld($core, $rules) : [];
        $shelf = new BoardShelf(
            $desk->actor,
            $this->chart,
            $this->booksDay->input($desk->id()),
            $currency,
            $raw,
            $limits,
            $lapsed,
            $withheld,
            $problems,
        );
        $placing = new BoardPlacing(
            $side,
            $mode,
            $currency,
            $paid ?? $date,
            $raw,
            $offer,
            BoardMode::Payment === $mode ? $rules : [],
            $shelf,
            $problems,
        );
        array_map($placing->read(...), $rows);
        $alone = $this->boardLimits->alone($desk, $currency, $date);
        if ($this->boardLimits->isMuch($desk, $shelf->letGo, $currency, $date)) {
            $shelf->askFor();
        }
        $placing->settle();
        $this->stillOpen($desk, $raw, $open, $problems);
        // an amount that is not typed is what was chosen
        $amount ??= $mode->hasMoney() ? max(0, $placing->comesTo()) : 0;
        if (BoardMode::Receipt === $mode && 0 === $amount && '' === $text('amount')) {
            $problems->add(
                'amount',
                'The amount is missing; type what reached the bank, or choose what it is for.',
                ProblemKind::Missing,
            );
        }
        $input =
            null === $party || null === $bank
                ? null
                : $this->boardMoney->input(
                    $desk,
                    $side,
                    $mode,
                    $party,
                    $bank,
                    $date,
                    $currency,
                    $amount,
                    $placing,
                    $text,
                    $problems,
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
        $raw['also'] = implode(',', array_keys($also));

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
            $placing->letGo,
            $placing->withheld,
            $offer,
            $limits,
            $lapsed,
            $withheld,
            array_intersect_key($shelf->claims, $placing->placed),
            array_keys($also),
            $alone,
            null === $input || null === $bank ? null : $this->boardMoney->bankSide($desk, $input, $bank),
            $all,
            $at,
            \count($ideas),
            $raw,
            $problems->all,
        );
    }

    /**
     * What a customer may withhold of an item for its tax office when the rest is paid.
     *
     * @param array<int, OpenItem> $items
     * @param array<int, Withholding> $rules
     *
     * @return array<int, int> positive minor units, by item
     */
    private static function mostWithheld(array $items, array $rules): array
    {
        return array_map(
            static fn (int $id): int => max(
                0,
                ($items[$id] ?? null)?->open > 0 ? $rules[$id]->on($items[$id]->open, 0, true) : 0,
            ),
            array_combine(array_keys($rules), array_keys($rules)),
        );
    }

    /** @return array<int, int> what a customer's list marks, by item: 0 for all of it */
    private static function marked(string $typed): array
    {
        preg_match_all('/(\d{1,10}):(\d{1,18})/', $typed, $m, \PREG_SET_ORDER);

        return array_column(array_map(static fn (array $pair): array => [(int) $pair[1], (int) $pair[2]], $m), 1, 0);
    }

    private function party(Desk $desk, Side $side, BoardMode $mode, string $typed, ProblemList $problems): ?Party
    {
        /** @var Party|null $party */
        $party = $problems->attempt(
            fn () => Nobody::CODE === $typed && BoardMode::Receipt === $mode
                ? $this->nobody->of($desk->id())
                : $this->lookup->party($desk->id(), $side, $typed),
        );
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

        return $party;
    }

    /**
     * Other customers whose items one receipt is placed on too: it has one payer.
     *
     * @return array<string, Party> by code
     */
    private function also(Desk $desk, BoardMode $mode, ?Party $payer, string $codes, ProblemList $problems): array
    {
        $also = [];
        foreach (BoardMode::Receipt === $mode ? \array_slice(array_filter(explode(',', $codes)), 0, 20) : [] as $code) {
            $party = $problems->attempt(
                fn (): Party => $this->lookup->party($desk->id(), Side::Receivables, trim($code), 'also_more'),
            );
            if (null !== $party && $party !== $payer) {
                $also[$party->code] = $party;
            }
        }

        return $also;
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
