<?php

declare(strict_types=1);

namespace Nelbix\App\Money;

use Doctrine\ORM\EntityManagerInterface;
use Nelbix\App\Books\ItemLocks;
use Nelbix\App\Books\OpenItemRecord;
use Nelbix\App\Books\Transfer;
use Nelbix\App\Books\TransferTarget;
use Nelbix\App\Ledger\Chart;
use Nelbix\App\Parties\Nobody;
use Nelbix\App\Platform\Actor;
use Nelbix\App\Platform\FormKey;
use Nelbix\App\Platform\History;
use Nelbix\App\Platform\Transaction;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Ledger\AccountRole;
use Nelbix\Core\Ledger\DocumentKind;
use Nelbix\Core\Ledger\JournalDraft;
use Nelbix\Core\Ledger\Side;
use Nelbix\Core\Money\Money;
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
        private ItemLocks $items,
        private Transfer $transfer,
        private Chart $chart,
        private History $history,
        private Nobody $nobody,
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
            self::mustBeCredit($credit);
            $this->nobody->mustNotBe($credit->partyId, 'item');
            $document = $this->transfer->write(
                $actor,
                DocumentKind::RefundRequest,
                $credit,
                $amount,
                $this->target($actor, $credit),
                $date,
                $why,
                'refund of '.$credit->number,
            )->document;
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
     * Several credits of a customer, all of it or nothing: a request for each, which a run pays together.
     *
     * @param array<int, int> $amounts positive, by item
     * @param FormKey|null $form the same one twice asks once
     *
     * @return non-empty-list<int> the requests; the first alone when the page was sent before
     *
     * @throws Refused naming the item
     */
    public function requestAll(
        Actor $actor,
        int $partyId,
        array $amounts,
        Day $date,
        string $why,
        ?FormKey $form,
    ): array {
        if ([] === $amounts) {
            throw Refused::because('item', 'Say how much of which credit is given back.', ProblemKind::Missing);
        }
        $made = [];
        $first = $this->transaction->once($actor, 'refunds', $form, function () use (
            $actor,
            $partyId,
            $amounts,
            $date,
            $why,
            &$made,
        ): int {
            $made = [];
            ksort($amounts);
            foreach ($this->items->lock($actor, array_keys($amounts)) as $credit) {
                if ($credit->partyId !== $partyId) {
                    throw Refused::because(
                        'item.'.$credit->id(),
                        \sprintf('%s is not a credit of this customer.', $credit->number),
                    );
                }
            }
            foreach ($amounts as $item => $amount) {
                $made[] = $this->request($actor, $item, $amount, $date, $why);
            }

            return $made[0];
        });

        return [] === $made ? [$first] : $made;
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
        self::mustBeCredit($credit);

        return Transfer::preview(DocumentKind::RefundRequest, $credit, $amount, $this->target($actor, $credit), $date);
    }

    private function target(Actor $actor, OpenItemRecord $credit): TransferTarget
    {
        return new TransferTarget(
            Side::Payables,
            $this->chart->role($actor->companyId, AccountRole::RefundsPayable),
            $credit->partyId,
        );
    }

    private static function mustBeCredit(OpenItemRecord $credit): void
    {
        if (Side::Receivables !== $credit->side || $credit->open >= 0) {
            throw Refused::because(
                'item',
                \sprintf(
                    '%s is not an open credit of a customer; only credits, unapplied receipts and prepayments are refunded.',
                    $credit->number,
                ),
            );
        }
    }
}
