<?php

declare(strict_types=1);

namespace Nelbix\App\Money;

use Brick\Math\BigDecimal;
use Doctrine\ORM\EntityManagerInterface;
use Nelbix\App\Books\Document;
use Nelbix\App\Books\DocumentBook;
use Nelbix\App\Books\DocumentDraft;
use Nelbix\App\Books\ItemDraft;
use Nelbix\App\Books\ItemLocks;
use Nelbix\App\Books\OpenItemRecord;
use Nelbix\App\Books\PlacementRequest;
use Nelbix\App\Books\SettlementBook;
use Nelbix\App\Books\SettlementRequest;
use Nelbix\App\Ledger\Chart;
use Nelbix\App\Platform\Actor;
use Nelbix\App\Platform\History;
use Nelbix\App\Platform\Transaction;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Ledger\AccountRole;
use Nelbix\Core\Ledger\DocumentKind;
use Nelbix\Core\Ledger\JournalDraft;
use Nelbix\Core\Ledger\Side;
use Nelbix\Core\Ledger\TransferEntry;
use Nelbix\Core\Ledger\TransferLeg;
use Nelbix\Core\Money\Money;
use Nelbix\Core\Money\Rounding;
use Nelbix\Core\ProblemKind;
use Nelbix\Core\Refused;

/**
 * Asks for a customer's credit to be paid back: its part moves to refunds payable, where a payment run finds it. Who asks for a refund
 * does not pay it.
 */
final readonly class RequestRefund
{
    public function __construct(
        private Transaction $transaction,
        private EntityManagerInterface $entities,
        private SettlementBook $book,
        private ItemLocks $items,
        private DocumentBook $documents,
        private Chart $chart,
        private History $history,
    ) {
    }

    /**
     * @param int $itemId the customer's open credit: a credit note, unapplied money or a prepayment
     * @param int $amount positive, minor units of the credit's currency
     *
     * @return int the refund request's id
     *
     * @throws Refused when the item is no credit, or holds less
     */
    public function request(Actor $actor, int $itemId, int $amount, Day $date, string $why): int
    {
        return $this->transaction->run(function () use ($actor, $itemId, $amount, $date, $why): int {
            $credit = $this->items->lock($actor, [$itemId])[$itemId];
            $this->check($credit, $amount, $date);
            $base = self::base($credit, $amount);
            $document = $this->document($actor, $credit, $amount, $base, $date, $why);
            $legs = $this->legs($actor, $credit, $amount, $base);
            $written = $this->documents->write(
                $actor,
                new DocumentDraft(
                    $document,
                    array_map(
                        static fn (TransferLeg $l): ItemDraft => new ItemDraft(
                            $l->side,
                            $l->party,
                            $l->account,
                            $l->amount,
                            $l->base,
                            $date,
                        ),
                        $legs,
                    ),
                    TransferEntry::draft($credit->currency, $legs, $document->kind->word()),
                    'refund of '.$credit->number,
                ),
            );
            $this->book->settle(
                $actor,
                new SettlementRequest(
                    Side::Receivables,
                    [new PlacementRequest($itemId, -$amount), new PlacementRequest($written->items[0]->id(), $amount)],
                    [],
                    $date,
                    BigDecimal::of($document->rate),
                    $document,
                    null,
                    'refund of '.$credit->number,
                ),
            );
            $this->history->note(
                $actor,
                'document',
                $document->id(),
                'refund asked for',
                \sprintf(
                    '%s %s of %s',
                    Money::of($amount, $credit->currency)->decimal(),
                    $credit->currency,
                    $credit->number,
                ),
            );

            return $document->id();
        });
    }

    /**
     * The entry as asking would post it, for the entry panel.
     *
     * @throws Refused as asking would
     */
    public function preview(Actor $actor, int $itemId, int $amount, Day $date): JournalDraft
    {
        $credit =
            $this->entities
                ->getRepository(OpenItemRecord::class)
                ->findOneBy(['id' => $itemId, 'companyId' => $actor->companyId]) ??
            throw Refused::because('item', 'There is no such item in this company.', ProblemKind::Unknown);
        $this->check($credit, $amount, $date);

        return TransferEntry::draft(
            $credit->currency,
            $this->legs($actor, $credit, $amount, self::base($credit, $amount)),
            DocumentKind::RefundRequest->word(),
        );
    }

    /** @return non-empty-list<TransferLeg> what settles the credit, and what is to be paid */
    private function legs(Actor $actor, OpenItemRecord $credit, int $amount, int $base): array
    {
        return [
            new TransferLeg(Side::Receivables, $credit->accountId, $credit->partyId, $amount, $base),
            new TransferLeg(
                Side::Payables,
                $this->chart->role($actor->companyId, AccountRole::RefundsPayable),
                $credit->partyId,
                $amount,
                $base,
            ),
        ];
    }

    /** The credit's own base goes with its amount, so no exchange difference arises. */
    private static function base(OpenItemRecord $credit, int $amount): int
    {
        return $amount === -$credit->open
            ? -$credit->openBase
            : Rounding::proportion(-$credit->openBase, $amount, -$credit->open);
    }

    private function check(OpenItemRecord $credit, int $amount, Day $date): void
    {
        $open = Money::of(abs($credit->open), $credit->currency)->decimal();
        if (Side::Receivables !== $credit->side || $credit->open >= 0) {
            throw Refused::because(
                'item',
                \sprintf(
                    '%s is not an open credit of a customer; only credits, unapplied receipts and prepayments are refunded.',
                    $credit->number,
                ),
            );
        }
        if ($amount <= 0 || $amount > -$credit->open) {
            throw Refused::because(
                'amount',
                \sprintf(
                    '%s %s of %s is open; ask for that or less, and more than nothing.',
                    $open,
                    $credit->currency,
                    $credit->number,
                ),
            );
        }
        if ($date->isBefore($credit->postingDate)) {
            throw Refused::because(
                'date',
                \sprintf(
                    '%s was posted on %s; the refund cannot be dated before.',
                    $credit->number,
                    $credit->postingDate->long(),
                ),
            );
        }
    }

    private function document(
        Actor $actor,
        OpenItemRecord $credit,
        int $amount,
        int $base,
        Day $date,
        string $why,
    ): Document {
        $document = $this->documents->begin($actor, Side::Receivables, DocumentKind::RefundRequest);
        $document->partyId = $credit->partyId;
        $document->documentDate = $document->postingDate = $document->dueDate = $date;
        $document->currency = $credit->currency;
        $document->rate = $credit->document->rate;
        $document->net = $document->total = $amount;
        $document->totalBase = $base;
        $document->againstId = $credit->document->id;
        $document->description = mb_substr(trim($why), 0, 255);

        return $document;
    }
}
