<?php

declare(strict_types=1);

namespace Nelbix\App\Money;

use Brick\Math\BigDecimal;
use Nelbix\App\Bank\BankAccount;
use Nelbix\App\Books\AdjustmentRequest;
use Nelbix\App\Books\Approval;
use Nelbix\App\Books\Document;
use Nelbix\App\Books\DocumentBook;
use Nelbix\App\Books\DocumentDraft;
use Nelbix\App\Books\ItemDraft;
use Nelbix\App\Books\ItemLocks;
use Nelbix\App\Books\MayPay;
use Nelbix\App\Books\PlacementRequest;
use Nelbix\App\Books\SettlementBook;
use Nelbix\App\Books\SettlementRequest;
use Nelbix\App\Books\WrittenDocument;
use Nelbix\App\Ledger\Chart;
use Nelbix\App\Ledger\Rates;
use Nelbix\App\Platform\Actor;
use Nelbix\App\Platform\FormKey;
use Nelbix\App\Platform\History;
use Nelbix\App\Platform\Settings;
use Nelbix\App\Platform\Transaction;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Ledger\AccountRole;
use Nelbix\Core\Ledger\DocumentKind;
use Nelbix\Core\Ledger\InvoiceEntry;
use Nelbix\Core\Ledger\JournalDraft;
use Nelbix\Core\Ledger\MoneyEntry;
use Nelbix\Core\Ledger\MoneyPart;
use Nelbix\Core\Ledger\Side;
use Nelbix\Core\Money\Money;
use Nelbix\Core\Money\Shares;
use Nelbix\Core\OpenItems\OpenItem;
use Nelbix\Core\OpenItems\StatementCheck;
use Nelbix\Core\Refused;

/** Posts money that came in or went out, of either side, and settles what it is placed on; the rest stays unapplied. */
final readonly class PostMoney
{
    public function __construct(
        private Transaction $transaction,
        private AtTheBank $atTheBank,
        private MoneyShares $shares,
        private SettlementBook $book,
        private ItemLocks $items,
        private DocumentBook $documents,
        private Chart $chart,
        private Rates $rates,
        private MayPay $mayPay,
        private BeforePosting $before,
        private History $history,
        private Settings $settings,
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
            $this->mayPay($inputs);
            $parties = $this->shares->parties($actor, $inputs);
            foreach ($inputs as $n => $input) {
                $shares[$n] = $this->shares->of($actor, $input, $parties);
                $drafts[] = $this->draft($actor, $input, $shares[$n], $banks[$n], $rates[$n]);
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
    private function mayPay(array $inputs): void
    {
        $days = [];
        foreach ($inputs as $input) {
            if (Side::Payables === $input->side && $input->sign() < 0) {
                $days[$input->date->iso()][] = $input;
            }
        }
        foreach ($days as $on => $ofDay) {
            $this->mayPay->check(
                array_map(static fn (MoneyInput $i): int => $i->partyId, $ofDay),
                array_merge(
                    ...array_map(static fn (MoneyInput $i): array => array_column($i->placements, 'item'), $ofDay),
                ),
                Day::of($on),
            );
        }
    }

    /** @param non-empty-list<MoneyShare> $shares */
    private function draft(
        Actor $actor,
        MoneyInput $input,
        array $shares,
        BankAccount $bank,
        BigDecimal $rate,
    ): DocumentDraft {
        $document = $this->document($actor, $input, $bank, $rate);
        $parts = self::parts($shares, $document->totalBase);

        return new DocumentDraft(
            $document,
            array_values(
                array_map(
                    static fn (int $n, MoneyPart $part): ItemDraft => new ItemDraft(
                        $input->side,
                        $part->party,
                        $part->account,
                        $input->sign() * $part->amount,
                        $input->sign() * $part->base,
                        $input->date,
                        kind: $shares[$n]->kind,
                    ),
                    array_keys($parts),
                    $parts,
                ),
            ),
            $this->moneyEntry($actor, $input, $parts, $bank, abs($document->bankBase)),
            $document->reference,
        );
    }

    /**
     * @param non-empty-list<MoneyShare> $shares
     *
     * @return array<int, MoneyPart> of the shares that make an item, under their keys; the base is shared by largest remainder
     */
    private static function parts(array $shares, int $base): array
    {
        $amounts = array_filter(array_map(static fn (MoneyShare $s): int => $s->amount, $shares));
        $bases = Shares::split($base, $amounts);

        $parts = [];
        foreach ($amounts as $n => $amount) {
            $parts[$n] = new MoneyPart($shares[$n]->account, $shares[$n]->party, $amount, $bases[$n]);
        }

        return $parts;
    }

    private function document(Actor $actor, MoneyInput $input, BankAccount $bank, BigDecimal $rate): Document
    {
        $document = $this->documents->begin($actor, $input->side, $input->kind);
        $document->partyId = $input->partyId;
        $document->documentDate = $document->postingDate = $document->dueDate = $input->date;
        $document->currency = $input->currency;
        $document->rate = (string) $rate;
        $document->net = $document->total = $input->amount;
        $document->totalBase = InvoiceEntry::base($input->amount, $input->currency, $actor->baseCurrency, $rate);
        $moved = $this->atTheBank->moved($actor, $input, $bank, $document->totalBase);
        $document->bankBase = -$input->sign() * $moved['base'];
        $document->bankAmount = $bank->currency === $input->currency ? 0 : -$input->sign() * $moved['amount'];
        $document->bankAccountId = $bank->id();
        $document->reference = mb_substr($input->reference, 0, 120);
        $document->method = $input->method;
        $document->theirNumber = mb_substr($input->theirReference, 0, 60);
        $document->theirKey = StatementCheck::key($document->theirNumber);
        $document->proposalId = $input->proposalId;
        $document->lookAlikeReason = mb_substr($input->answers->lookAlikeReason ?? '', 0, 255);
        $document->approval = $this->approval($actor, $input);

        return $document;
    }

    /** What goes to a vendor on account, or before there is an invoice, is approved above the limit before it is placed. */
    private function approval(Actor $actor, MoneyInput $input): Approval
    {
        $onAccount = DocumentKind::Prepayment === $input->kind ? $input->amount : $input->amount - $input->used();
        if (Side::Payables !== $input->side || $input->sign() > 0 || null !== $input->proposalId || $onAccount <= 0) {
            return Approval::None;
        }
        $limit = $this->settings->of($actor->companyId)->amount('invoice_approval_above', $actor->baseCurrency);
        $worth = $this->rates->worth(
            $actor->companyId,
            $input->currency,
            $actor->baseCurrency,
            $input->date,
            $onAccount,
            InvoiceEntry::base($onAccount, $input->currency, $actor->baseCurrency, $this->check($actor, $input)),
        );

        return $worth > $limit ? Approval::Awaiting : Approval::None;
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
        $parts = self::parts($shares, $base);
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
            'money' => $this->moneyEntry(
                $actor,
                $input,
                $parts,
                $bank,
                $this->atTheBank->moved($actor, $input, $bank, $base)['base'],
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

    /** @param array<int, MoneyPart> $parts */
    private function moneyEntry(
        Actor $actor,
        MoneyInput $input,
        array $parts,
        BankAccount $bank,
        int $bankBase,
    ): JournalDraft {
        $draft = MoneyEntry::draft(
            $input->side,
            $bank->accountId,
            $this->chart->role($actor->companyId, AccountRole::ExchangeRealised),
            $input->kind->word(),
            $input->currency,
            array_values($parts),
            $bankBase,
        );

        return $input->sign() > 0 ? $draft->reversed() : $draft;
    }
}
