<?php

declare(strict_types=1);

namespace Nelbix\App\Money;

use Brick\Math\BigDecimal;
use Doctrine\ORM\EntityManagerInterface;
use Nelbix\App\Bank\BankAccount;
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
use Nelbix\App\Ledger\Chart;
use Nelbix\App\Ledger\Rates;
use Nelbix\App\Parties\PartyAccounts;
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
use Nelbix\Core\Ledger\Side;
use Nelbix\Core\Money\Money;
use Nelbix\Core\OpenItems\StatementCheck;
use Nelbix\Core\ProblemKind;
use Nelbix\Core\Refused;

/** Posts money that came in or went out, of either side, and settles what it is placed on; the rest stays unapplied. */
final readonly class PostMoney
{
    public function __construct(
        private Transaction $transaction,
        private EntityManagerInterface $entities,
        private SettlementBook $book,
        private ItemLocks $items,
        private DocumentBook $documents,
        private Chart $chart,
        private Rates $rates,
        private PartyAccounts $partyAccounts,
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
            $banks = $rates = $drafts = $requests = $said = $unlike = $ids = [];
            $asks = [];
            foreach ($inputs as $n => $input) {
                $banks[$n] = $this->bank($actor, $input);
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
            foreach ($inputs as $n => $input) {
                $drafts[] = $this->draft($actor, $input, $banks[$n], $rates[$n]);
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
                if ([] !== $input->placements) {
                    $requests[] = $this->request($input, $written->items[0]->id(), $rates[$n], $written->document);
                }
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

    private function draft(Actor $actor, MoneyInput $input, BankAccount $bank, BigDecimal $rate): DocumentDraft
    {
        $document = $this->document($actor, $input, $bank, $rate);

        return new DocumentDraft(
            $document,
            [
                new ItemDraft(
                    $input->side,
                    $input->partyId,
                    $this->control($actor, $input),
                    $input->sign() * $input->amount,
                    $input->sign() * $document->totalBase,
                    $input->date,
                ),
            ],
            $this->moneyEntry($actor, $input, $bank, $rate),
            $document->reference,
        );
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
        $document->bankBase = -$input->sign() * $document->totalBase;
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
     * The entries as posting would write them: first the money, then the settlement. For the entry panel.
     *
     * @param array<int, \Nelbix\Core\OpenItems\OpenItem> $items the items it is placed on, by id
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
        $settlement = null;
        if ([] !== $input->placements) {
            $items[0] = new \Nelbix\Core\OpenItems\OpenItem(
                0,
                $input->side,
                $input->partyId,
                $input->kind,
                'this money',
                $this->control($actor, $input),
                $input->currency,
                $input->sign() * $input->amount,
                $input->sign() * $base,
                $input->sign() * $input->amount,
                $input->sign() * $base,
                $input->date,
                $input->date,
            );
            $settlement = $this->book->draft($actor, $this->request($input, 0, $rate, null), $items, $taxes)->entry;
        }

        return [
            'money' => $this->moneyEntry($actor, $input, $this->bank($actor, $input), $rate),
            'settlement' => $settlement,
        ];
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

    private function request(
        MoneyInput $input,
        int $moneyItem,
        BigDecimal $rate,
        ?Document $document,
    ): SettlementRequest {
        $placements = $input->placements;
        if (0 !== $input->used()) {
            $placements[] = new PlacementRequest($moneyItem, $input->sign() * $input->used());
        }

        return new SettlementRequest(
            $input->side,
            $placements,
            $input->adjustments,
            $input->date,
            $rate,
            $document,
            $input->proposalId,
        );
    }

    private function moneyEntry(Actor $actor, MoneyInput $input, BankAccount $bank, BigDecimal $rate): JournalDraft
    {
        $base = InvoiceEntry::base($input->amount, $input->currency, $actor->baseCurrency, $rate);

        $draft = MoneyEntry::draft(
            $input->side,
            $this->control($actor, $input),
            $bank->accountId,
            $this->chart->role($actor->companyId, AccountRole::ExchangeRealised),
            $input->partyId,
            $input->kind->word(),
            $input->currency,
            $input->amount,
            $base,
            $base,
        );

        return $input->sign() > 0 ? $draft->reversed() : $draft;
    }

    private function control(Actor $actor, MoneyInput $input): int
    {
        return $input->control ??
            (DocumentKind::Prepayment === $input->kind
                ? $this->partyAccounts->prepayments($actor->companyId, $input->side, $input->partyId)
                : $this->partyAccounts->control($actor->companyId, $input->side, $input->partyId));
    }

    private function bank(Actor $actor, MoneyInput $input): BankAccount
    {
        $bank = $this->entities->find(BankAccount::class, $input->bankAccountId);
        if (null === $bank || $bank->companyId !== $actor->companyId || $bank->retired) {
            throw Refused::because(
                'bank',
                'There is no such bank account in this company; choose one from the list.',
                ProblemKind::Unknown,
            );
        }
        // an account in base currency takes other money at its worth; one in another currency only its own
        if ($bank->currency !== $input->currency && $bank->currency !== $actor->baseCurrency) {
            throw Refused::because(
                'bank',
                \sprintf(
                    '%s is kept in %s; money in %s does not go there. Choose an account in %s or %s.',
                    $bank->name,
                    $bank->currency,
                    $input->currency,
                    $input->currency,
                    $actor->baseCurrency,
                ),
            );
        }

        return $bank;
    }
}
