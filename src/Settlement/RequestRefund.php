<?php

declare(strict_types=1);

namespace Nelbix\App\Settlement;

use Brick\Math\BigDecimal;
use Doctrine\ORM\EntityManagerInterface;
use Nelbix\App\Documents\Document;
use Nelbix\App\Documents\DocumentState;
use Nelbix\App\Documents\OpenItemRecord;
use Nelbix\App\Ledger\Chart;
use Nelbix\App\Ledger\EntryOrder;
use Nelbix\App\Ledger\LedgerWriter;
use Nelbix\App\Platform\Actor;
use Nelbix\App\Platform\History;
use Nelbix\App\Platform\Numbering;
use Nelbix\App\Platform\Transaction;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Ledger\AccountRole;
use Nelbix\Core\Ledger\DocumentKind;
use Nelbix\Core\Ledger\Side;
use Nelbix\Core\Ledger\TransferEntry;
use Nelbix\Core\Ledger\TransferLeg;
use Nelbix\Core\Money\Money;
use Nelbix\Core\Money\Rounding;
use Nelbix\Core\Refused;
use Psr\Clock\ClockInterface;

/**
 * Asks for a customer's credit to be paid back: its part moves to refunds payable, where a payment run finds it. Who asks for a refund does not pay it.
 */
final readonly class RequestRefund
{
    public function __construct(
        private Transaction $transaction,
        private EntityManagerInterface $entities,
        private SettlementBook $book,
        private LedgerWriter $ledger,
        private Chart $chart,
        private Numbering $numbering,
        private History $history,
        private ClockInterface $clock,
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
            $credit = $this->book->lock($actor, [$itemId])[$itemId];
            $this->check($credit, $amount, $date);
            $base = $amount === -$credit->open ? -$credit->openBase : Rounding::proportion(-$credit->openBase, $amount, -$credit->open);
            $document = $this->document($actor, $credit, $amount, $base, $date, $why);
            $refunds = $this->chart->role($actor->companyId, AccountRole::RefundsPayable);
            $items = [];
            foreach ([[Side::Receivables, $credit->accountId], [Side::Payables, $refunds]] as $k => [$side, $account]) {
                $items[] = $item = new OpenItemRecord($actor->companyId, $side, $credit->partyId, $document, $k + 1, $document->kind, (string) $document->number, $account, $credit->currency, $amount, $base, $amount, $base, 0, 0, $date, $date, $date);
                $this->entities->persist($item);
            }
            $this->entities->flush();
            $legs = array_map(static fn (OpenItemRecord $i): TransferLeg => new TransferLeg($i->side, $i->accountId, $i->partyId, $i->original, $i->originalBase), $items);
            $this->ledger->write($actor, new EntryOrder(TransferEntry::draft($credit->currency, $legs, (string) $document->number), $date, \sprintf('%s: refund of %s', $document->number, $credit->number), [Side::Receivables, Side::Payables], $document->id()));
            $this->book->settle($actor, new SettlementRequest(Side::Receivables, [['item' => $itemId, 'applied' => -$amount], ['item' => $items[0]->id(), 'applied' => $amount]], [], $date, BigDecimal::of($document->rate), $document->id(), null, 'Refund of '.$credit->number));
            $this->history->note($actor, 'document', $document->id(), 'refund asked for', \sprintf('%s %s of %s', Money::of($amount, $credit->currency)->decimal(), $credit->currency, $credit->number));

            return $document->id();
        });
    }

    private function check(OpenItemRecord $credit, int $amount, Day $date): void
    {
        $open = Money::of(abs($credit->open), $credit->currency)->decimal();
        if (Side::Receivables !== $credit->side || $credit->open >= 0) {
            throw Refused::because('item', \sprintf('%s is not an open credit of a customer; only credits, unapplied receipts and prepayments are refunded.', $credit->number));
        }
        if ($amount <= 0 || $amount > -$credit->open) {
            throw Refused::because('amount', \sprintf('%s %s of %s is open; ask for that or less, and more than nothing.', $open, $credit->currency, $credit->number));
        }
        if ($date->isBefore($credit->postingDate)) {
            throw Refused::because('date', \sprintf('%s was posted on %s; the refund cannot be dated before.', $credit->number, $credit->postingDate->long()));
        }
    }

    private function document(Actor $actor, OpenItemRecord $credit, int $amount, int $base, Day $date, string $why): Document
    {
        $document = new Document($actor->companyId, Side::Receivables, DocumentKind::RefundRequest, DocumentState::Posted, $actor->userId, $this->clock->now());
        $document->number = $this->numbering->document($actor->companyId, $document->kind->prefix($document->side), $date->year);
        $document->partyId = $credit->partyId;
        $document->documentDate = $document->postingDate = $document->dueDate = $date;
        $document->currency = $credit->currency;
        $document->rate = $credit->document->rate;
        $document->net = $document->total = $amount;
        $document->totalBase = $base;
        $document->againstId = $credit->document->id;
        $document->description = mb_substr(trim($why), 0, 255);
        $document->postedAt = $this->clock->now();
        $this->entities->persist($document);

        return $document;
    }
}
