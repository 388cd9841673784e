<?php

declare(strict_types=1);

namespace Nelbix\App\Money;

use Brick\Math\BigDecimal;
use Nelbix\App\Books\AdjustmentRequest;
use Nelbix\App\Books\Document;
use Nelbix\App\Books\DocumentBook;
use Nelbix\App\Books\ItemLocks;
use Nelbix\App\Books\MayPay;
use Nelbix\App\Books\PlacementRequest;
use Nelbix\App\Books\SettlementBook;
use Nelbix\App\Books\SettlementRequest;
use Nelbix\App\Books\WrittenDocument;
use Nelbix\App\Ledger\Rates;
use Nelbix\App\Platform\Actor;
use Nelbix\App\Platform\FormKey;
use Nelbix\App\Platform\History;
use Nelbix\App\Platform\Transaction;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Ledger\DocumentKind;
use Nelbix\Core\Ledger\InvoiceEntry;
use Nelbix\Core\Ledger\JournalDraft;
use Nelbix\Core\Ledger\MoneyPart;
use Nelbix\Core\Ledger\Side;
use Nelbix\Core\Money\Money;
use Nelbix\Core\OpenItems\OpenItem;
use Nelbix\Core\Refused;

/** Posts money that came in or went out, of either side, and settles what it is placed on; the rest stays unapplied. */
final readonly class PostMoney
{
    public function __construct(
        private Transaction $transaction,
        private AtTheBank $atTheBank,
        private MoneyShares $shares,
        private MoneyDrafts $drafts,
        private SettlementBook $book,
        private ItemLocks $items,
        private DocumentBook $documents,
        private Rates $rates,
        private MayPay $mayPay,
        private BeforePosting $before,
        private History $history,
    ) {
    }

    /**
     * @return int the document's id
     *
     * @throws Refused
     */
    public function post(Actor $actor, MoneyInput $input, ?FormKey $form = null): int
    {
        return $this->transaction->once($actor, 'money', $form, fn (): int => $this->postAll($actor, [$input])[0]);
    }

    /**
     * Posts many in one transaction and in few statements: all or none.
     *
     * @param non-empty-list<MoneyInput> $inputs
     *
     * @return non-empty-list<int> the documents' ids, in the same order
     *
     * @throws Refused
     */
    public function postAll(Actor $actor, array $inputs): array
    {
        return $this->transaction->run(function () use ($actor, $inputs): array {
            $banks = $rates = $shares = $drafts = $requests = $said = $unlike = $ids = [];
            $asks = [];
            foreach ($inputs as $n => $input) {
                $banks[$n] = $this->atTheBank->account($actor, $input);
                $rates[$n] = $this->check($actor, $input);
                array_push($asks, ...$this->before->asks($actor, $input));
            }
            if ([] !== $asks) {
                throw Refused::all($asks);
            }
            $this->items->hold(
                array_merge(
                    ...array_map(static fn (MoneyInput $i): array => array_column($i->placements, 'item'), $inputs),
                ),
            );
            $this->mayPay($actor, $inputs);
            $parties = $this->shares->parties($actor, $inputs);
            foreach ($inputs as $n => $input) {
                $shares[$n] = $this->shares->of($actor, $input, $parties);
                $drafts[] = $this->drafts->draft($actor, $input, $shares[$n], $banks[$n], $rates[$n]);
            }
            foreach ($this->documents->writeAll($actor, $drafts) as $n => $written) {
                $input = $inputs[$n];
                $ids[] = $written->document->id();
                $said[$written->document->id()] = \sprintf(
                    '%s %s',
                    Money::of($input->amount, $input->currency)->decimal(),
                    $input->currency,
                );
                if ('' !== $written->document->lookAlikeReason) {
                    $unlike[$written->document->id()] = $written->document->lookAlikeReason;
                }
                array_push($requests, ...self::requests($input, $shares[$n], $written, $rates[$n]));
            }
            if ([] !== $requests) {
                $this->book->settleAll($actor, $requests);
            }
            $this->history->noteAll($actor, 'document', $said, 'posted');
            $this->history->noteAll($actor, 'document', $unlike, 'not the one it looks like');

            return $ids;
        });
    }

    /**
     * @param non-empty-list<MoneyShare> $shares
     *
     * @return list<SettlementRequest> one for each party
     */
    private static function requests(
        MoneyInput $input,
        array $shares,
        WrittenDocument $written,
        BigDecimal $rate,
    ): array {
        $requests = [];
        $part = 0;
        foreach ($shares as $share) {
            $item = $share->amount > 0 ? $written->items[$part++]->id() : 0;
            if ($share->settles()) {
                $requests[] = self::request($input, $share, $item, $rate, $written->document);
            }
        }

        return $requests;
    }

    /**
     * @param non-empty-list<MoneyInput> $inputs
     *
     * @throws Refused when a vendor or an invoice may not be paid
     */
    private function mayPay(Actor $actor, array $inputs): void
    {
        $days = [];
        foreach ($inputs as $input) {
            if (Side::Payables === $input->side && $input->sign() < 0) {
                $days[$input->date->iso()][] = $input;
            }
        }
        foreach ($days as $on => $ofDay) {
            $parties = array_map(static fn (MoneyInput $i): int => $i->partyId, $ofDay);
            $items = array_merge(
                ...array_map(static fn (MoneyInput $i): array => array_column($i->placements, 'item'), $ofDay),
            );
            $this->mayPay->check($parties, $items, Day::of($on));
            $this->mayPay->mayBePaidBy($actor, $items, $parties);
        }
    }

    /**
     * The entries as posting would write them: first the money, then its settlements, one for each party. For the entry panel.
     *
     * @param array<int, OpenItem> $items the items it is placed on, by id
     * @param array<int, non-empty-list<array<string, mixed>>>|null $taxes of items that are not stored yet, from CorrectedTax
     *
     * @return array{money: JournalDraft, settlement: ?JournalDraft}
     *
     * @throws Refused
     */
    public function preview(Actor $actor, MoneyInput $input, array $items, ?array $taxes = null): array
    {
        $rate = $this->check($actor, $input);
        $base = InvoiceEntry::base($input->amount, $input->currency, $actor->baseCurrency, $rate);
        $shares = $this->shares->of($actor, $input, array_map(static fn (OpenItem $i): int => $i->party, $items));
        $parts = MoneyDrafts::parts($shares, $base);
        $lines = [];
        foreach ($shares as $n => $share) {
            if ($share->settles()) {
                $own = isset($parts[$n]) ? [0 => self::ofThisMoney($input, $share->kind, $parts[$n])] : [];
                $request = self::request($input, $share, 0, $rate, null);
                array_push($lines, ...$this->book->draft($actor, $request, $own + $items, $taxes)->entry->lines);
            }
        }
        $bank = $this->atTheBank->account($actor, $input);

        return [
            'money' => $this->drafts->entry(
                $actor,
                $input,
                $parts,
                $bank,
                $this->atTheBank->moved($actor, $input, $bank, $base)['base'],
                $this->drafts->tax($actor, $input, $shares, $rate),
            ),
            'settlement' => [] === array_filter($shares, static fn (MoneyShare $s): bool => $s->settles())
                    ? null
                    : JournalDraft::of($input->currency, $lines),
        ];
    }

    private static function ofThisMoney(MoneyInput $input, DocumentKind $kind, MoneyPart $part): OpenItem
    {
        $amount = $input->sign() * $part->amount;
        $base = $input->sign() * $part->base;

        return new OpenItem(
            0,
            $input->side,
            $part->party,
            $kind,
            'this money',
            $part->account,
            $input->currency,
            $amount,
            $base,
            $amount,
            $base,
            $input->date,
            $input->date,
            moved: $input->date,
        );
    }

    private function check(Actor $actor, MoneyInput $input): BigDecimal
    {
        if ($input->amount <= 0) {
            throw Refused::because(
                'amount',
                'The amount must be above zero; settle credits without money where none moved.',
            );
        }
        if ($input->used() > $input->amount) {
            throw Refused::because(
                'amount',
                \sprintf(
                    '%s %s more is placed than the money holds; place less, or use a credit.',
                    Money::of($input->used() - $input->amount, $input->currency)->decimal(),
                    $input->currency,
                ),
            );
        }
        if ([] !== $input->placements && $input->used() < 0) {
            throw Refused::because(
                'amount',
                'The credits used are more than what they are placed on; use less of them.',
            );
        }

        return $input->rate ??
            $this->rates->on($actor->companyId, $input->currency, $actor->baseCurrency, $input->date);
    }

    private static function request(
        MoneyInput $input,
        MoneyShare $share,
        int $moneyItem,
        BigDecimal $rate,
        ?Document $document,
    ): SettlementRequest {
        $placements = $share->placements;
        if (0 !== $share->used) {
            $placements[] = new PlacementRequest($moneyItem, $input->sign() * $share->used);
        }

        return new SettlementRequest(
            $input->side,
            $placements,
            array_map(
                static fn (AdjustmentRequest $a): AdjustmentRequest => 0 === $a->item ? $a->on($moneyItem) : $a,
                $share->adjustments,
            ),
            $input->date,
            $rate,
            $document,
            $input->proposalId,
        );
    }
}
