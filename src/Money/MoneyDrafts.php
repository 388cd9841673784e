<?php

declare(strict_types=1);

namespace Nelbix\App\Money;

use Brick\Math\BigDecimal;
use Nelbix\App\Bank\BankAccount;
use Nelbix\App\Books\Approval;
use Nelbix\App\Books\Document;
use Nelbix\App\Books\DocumentBook;
use Nelbix\App\Books\DocumentDraft;
use Nelbix\App\Books\DocumentTax;
use Nelbix\App\Books\ItemDraft;
use Nelbix\App\Codes\CodeBook;
use Nelbix\App\Ledger\Chart;
use Nelbix\App\Ledger\Rates;
use Nelbix\App\Platform\Actor;
use Nelbix\App\Platform\Settings;
use Nelbix\Core\Ledger\AccountRole;
use Nelbix\Core\Ledger\DocumentKind;
use Nelbix\Core\Ledger\DraftLine;
use Nelbix\Core\Ledger\InvoiceEntry;
use Nelbix\Core\Ledger\JournalDraft;
use Nelbix\Core\Ledger\MoneyEntry;
use Nelbix\Core\Ledger\MoneyPart;
use Nelbix\Core\Ledger\Side;
use Nelbix\Core\Money\Shares;
use Nelbix\Core\OpenItems\StatementCheck;
use Nelbix\Core\Refused;
use Nelbix\Core\Tax\PrepaymentTax;

/** Drafts the document of money that moved, with an item and its part of the entry for each of its shares. */
final readonly class MoneyDrafts
{
    public function __construct(
        private DocumentBook $documents,
        private AtTheBank $atTheBank,
        private Chart $chart,
        private Rates $rates,
        private Settings $settings,
        private CodeBook $codes,
        private ReceiptBatches $batches,
    ) {
    }

    /** @param non-empty-list<MoneyShare> $shares */
    public function draft(
        Actor $actor,
        MoneyInput $input,
        array $shares,
        BankAccount $bank,
        BigDecimal $rate,
    ): DocumentDraft {
        $document = $this->document($actor, $input, $bank, $rate);
        $parts = self::parts($shares, $document->totalBase);
        $tax = $this->tax($actor, $input, $shares, $rate);
        if (null !== $tax) {
            $document->tax = $tax['tax'];
            $document->net = $document->total - $tax['tax'];
        }

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
            $this->entry($actor, $input, $parts, $bank, abs($document->bankBase), $tax),
            $document->reference,
            taxes: null === $tax
                ? []
                : [new DocumentTax($document, $tax['code'], $tax['gross'] - $tax['tax'], $tax['tax'], $tax['tax'])],
        );
    }

    /**
     * @param non-empty-list<MoneyShare> $shares
     *
     * @return array<int, MoneyPart> of the shares that make an item, under their keys; the base is shared by largest remainder
     */
    public static function parts(array $shares, int $base): array
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
        $document->onHandAccountId = $this->atTheBank->onHand($actor, $input);
        $document->reference = mb_substr($input->reference, 0, 120);
        $document->method = $input->method;
        $document->theirNumber = mb_substr($input->theirReference, 0, 60);
        $document->theirKey = StatementCheck::key($document->theirNumber);
        $document->proposalId = $input->proposalId;
        $document->receiptBatchId = $this->batches->mustBeOpen($actor, $input)?->id();
        $document->lookAlikeReason = mb_substr($input->answers->lookAlikeReason ?? '', 0, 255);
        $document->approval = $this->approval($actor, $input, $rate);

        return $document;
    }

    /** What goes to a vendor on account, or before there is an invoice, is approved above the limit before it is placed. */
    private function approval(Actor $actor, MoneyInput $input, BigDecimal $rate): Approval
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
            InvoiceEntry::base($onAccount, $input->currency, $actor->baseCurrency, $rate),
        );

        return $worth > $limit ? Approval::Awaiting : Approval::None;
    }

    /**
     * The tax in what is a prepayment of the money.
     *
     * @param non-empty-list<MoneyShare> $shares
     *
     * @return array{code: int, account: int, gross: int, tax: int, base: int}|null null when there is none
     *
     * @throws Refused when the code is not owed of prepayments
     */
    public function tax(Actor $actor, MoneyInput $input, array $shares, BigDecimal $rate): ?array
    {
        $gross = array_sum(
            array_map(static fn (MoneyShare $s): int => DocumentKind::Prepayment === $s->kind ? $s->amount : 0, $shares),
        );
        if (null === $input->prepaidTaxCode || 0 === $gross || Side::Receivables !== $input->side) {
            return null;
        }
        $code = $this->codes->taxCodes($actor->companyId)[$input->prepaidTaxCode] ?? null;
        if (null === $code || !$code->taxesPrepayments || $code->retired) {
            throw Refused::because('kind_tax', 'This tax code is not owed of prepayments; choose another, or none.');
        }
        $tax = PrepaymentTax::inside($gross, BigDecimal::of($code->rate));

        return [
            'code' => $code->id(),
            'account' => $code->accountId,
            'gross' => $gross,
            'tax' => $tax,
            'base' => InvoiceEntry::base($tax, $input->currency, $actor->baseCurrency, $rate),
        ];
    }

    /**
     * @param array<int, MoneyPart> $parts
     * @param array{code: int, account: int, gross: int, tax: int, base: int}|null $tax from tax()
     */
    public function entry(
        Actor $actor,
        MoneyInput $input,
        array $parts,
        BankAccount $bank,
        int $bankBase,
        ?array $tax = null,
    ): JournalDraft {
        $draft = MoneyEntry::draft(
            $input->side,
            $this->atTheBank->onHand($actor, $input) ?? $bank->accountId,
            $this->chart->role($actor->companyId, AccountRole::ExchangeRealised),
            $input->kind->word(),
            $input->currency,
            array_values($parts),
            $bankBase,
        );

        if (null !== $tax) {
            $prepaid = $this->chart->role($actor->companyId, AccountRole::TaxOnCustomerPrepayments);
            $draft = JournalDraft::of($input->currency, [
                ...$draft->lines,
                new DraftLine($prepaid, $tax['base'], $tax['tax'], $input->kind->word()),
                new DraftLine($tax['account'], -$tax['base'], -$tax['tax'], $input->kind->word()),
            ]);
        }

        return $input->sign() > 0 ? $draft->reversed() : $draft;
    }
}
