<?php

declare(strict_types=1);

namespace Nelbix\App\Money;

use Nelbix\App\Books\ItemLocks;
use Nelbix\App\Books\OpenItemRecord;
use Nelbix\App\Books\Transfer;
use Nelbix\App\Books\TransferTarget;
use Nelbix\App\Ledger\Chart;
use Nelbix\App\Parties\Nobody;
use Nelbix\App\Parties\PartyAccounts;
use Nelbix\App\Platform\Actor;
use Nelbix\App\Platform\History;
use Nelbix\App\Platform\Transaction;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Ledger\DocumentKind;
use Nelbix\Core\Ledger\JournalDraft;
use Nelbix\Core\Money\Money;
use Nelbix\Core\Refused;

/** Makes unapplied money a prepayment, or a prepayment unapplied again, on either side. Source: rules.md, Transfers, To prepayment. */
final readonly class MovePrepayment
{
    public function __construct(
        private Transaction $transaction,
        private ItemLocks $items,
        private Transfer $transfer,
        private PartyAccounts $accounts,
        private Chart $chart,
        private History $history,
        private Nobody $nobody,
    ) {
    }

    /**
     * @param int $amount positive, minor units of the item's currency
     *
     * @return int the id of the document that moves it
     *
     * @throws Refused when it is no money, or holds less
     */
    public function move(Actor $actor, int $itemId, int $amount, Day $date, string $why): int
    {
        return $this->transaction->run(function () use ($actor, $itemId, $amount, $date, $why): int {
            $item = $this->items->lock($actor, [$itemId])[$itemId];
            $this->nobody->mustNotBe($item->partyId, 'item');
            $kind = $this->kind($actor, $item);
            $id = $this->transfer
                ->write(
                    $actor,
                    $kind,
                    $item,
                    $amount,
                    $this->target($actor, $kind, $item),
                    $date,
                    $why,
                    DocumentKind::ToPrepayment === $kind ? 'now a prepayment' : 'unapplied again',
                )
                ->document->id();
            $this->history->note(
                $actor,
                'document',
                $id,
                DocumentKind::ToPrepayment === $kind ? 'made a prepayment' : 'made unapplied',
                \sprintf('%s %s of %s', Money::of($amount, $item->currency)->decimal(), $item->currency, $item->number),
            );

            return $id;
        });
    }

    /** @throws Refused as moving would */
    public function preview(Actor $actor, OpenItemRecord $item, int $amount, Day $date): JournalDraft
    {
        $kind = $this->kind($actor, $item);

        return Transfer::preview($kind, $item, $amount, $this->target($actor, $kind, $item), $date);
    }

    /** Which way it goes: by the account that it stands on. */
    private function kind(Actor $actor, OpenItemRecord $item): DocumentKind
    {
        if ($item->open >= 0 || (!$item->kind->isMoney() && !$item->kind->carriesMoney())) {
            throw Refused::because(
                'item',
                \sprintf(
                    '%s is no money that is left over; only that becomes a prepayment, or ceases to be one.',
                    $item->number,
                ),
            );
        }

        return $this->chart->account($actor->companyId, $item->accountId)['role'] ===
            $item->side->prepaymentRole()->value
            ? DocumentKind::FromPrepayment
            : DocumentKind::ToPrepayment;
    }

    private function target(Actor $actor, DocumentKind $kind, OpenItemRecord $item): TransferTarget
    {
        return new TransferTarget(
            $item->side,
            DocumentKind::ToPrepayment === $kind
                ? $this->accounts->prepayments($actor->companyId, $item->side, $item->partyId)
                : $this->accounts->control($actor->companyId, $item->side, $item->partyId),
            $item->partyId,
        );
    }
}
