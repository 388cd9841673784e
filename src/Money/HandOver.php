<?php

declare(strict_types=1);

namespace Nelbix\App\Money;

use Nelbix\App\Books\ItemLocks;
use Nelbix\App\Books\OpenItemRecord;
use Nelbix\App\Books\Transfer;
use Nelbix\App\Books\TransferTarget;
use Nelbix\App\Parties\Nobody;
use Nelbix\App\Parties\Party;
use Nelbix\App\Parties\PartyAccounts;
use Nelbix\App\Platform\Actor;
use Nelbix\App\Platform\History;
use Nelbix\App\Platform\Transaction;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Ledger\DocumentKind;
use Nelbix\Core\Ledger\JournalDraft;
use Nelbix\Core\Money\Money;
use Nelbix\Core\Refused;

/**
 * Gives money whose payer was not known to the customer it came from: unapplied there, with its base, on the day it is handed over. What
 * it is placed on then has the discounts of the day the money came. Source: rules.md, Journal entries.
 */
final readonly class HandOver
{
    public function __construct(
        private Transaction $transaction,
        private Nobody $nobody,
        private ItemLocks $items,
        private Transfer $transfer,
        private PartyAccounts $accounts,
        private History $history,
    ) {
    }

    /**
     * @param int $amount positive, minor units of the receipt's currency
     *
     * @return int the id of the document that hands it over
     *
     * @throws Refused when it is no unidentified receipt, or holds less
     */
    public function to(Actor $actor, int $itemId, Party $customer, int $amount, Day $date, string $why): int
    {
        return $this->transaction->run(function () use ($actor, $itemId, $customer, $amount, $date, $why): int {
            $item = $this->items->lock($actor, [$itemId])[$itemId];
            $this->mustBeNobodys($item);
            $id = $this->transfer
                ->write(
                    $actor,
                    DocumentKind::HandOver,
                    $item,
                    $amount,
                    $this->target($actor, $item, $customer),
                    $date,
                    $why,
                    'handed over to '.$customer->code,
                )
                ->document->id();
            $this->history->note(
                $actor,
                'document',
                $id,
                'handed over',
                \sprintf(
                    '%s %s of %s to %s %s',
                    Money::of($amount, $item->currency)->decimal(),
                    $item->currency,
                    $item->number,
                    $customer->code,
                    $customer->name,
                ),
            );

            return $id;
        });
    }

    /** @throws Refused as handing over would */
    public function preview(Actor $actor, OpenItemRecord $item, Party $customer, int $amount, Day $date): JournalDraft
    {
        $this->mustBeNobodys($item);

        return Transfer::preview(
            DocumentKind::HandOver,
            $item,
            $amount,
            $this->target($actor, $item, $customer),
            $date,
        );
    }

    private function target(Actor $actor, OpenItemRecord $item, Party $customer): TransferTarget
    {
        return new TransferTarget(
            $item->side,
            $this->accounts->control($actor->companyId, $item->side, $customer->id()),
            $customer->id(),
        );
    }

    private function mustBeNobodys(OpenItemRecord $item): void
    {
        if (!$this->nobody->is($item->partyId) || $item->open >= 0) {
            throw Refused::because(
                'item',
                \sprintf('%s is no open receipt of an unknown payer; only those are handed over.', $item->number),
            );
        }
    }
}
