<?php

declare(strict_types=1);

namespace Nelbix\App\Books;

use Brick\Math\BigDecimal;
use Nelbix\App\Platform\Actor;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Ledger\DocumentKind;
use Nelbix\Core\Ledger\JournalDraft;
use Nelbix\Core\Ledger\Side;
use Nelbix\Core\Ledger\TransferEntry;
use Nelbix\Core\Ledger\TransferLeg;
use Nelbix\Core\Money\Money;
use Nelbix\Core\Money\Rounding;
use Nelbix\Core\Refused;

/**
 * The one writer of documents whose items add up to zero: the first settles a part of an item, the second carries on with the same base
 * somewhere else, so no exchange difference arises. Call inside a transaction, with the item locked. Source: rules.md, Transfers.
 */
final readonly class Transfer
{
    public function __construct(private DocumentBook $documents, private SettlementBook $book)
    {
    }

    /**
     * @param OpenItemRecord $from what a part of is carried on
     * @param int $amount positive, minor units of the item's currency
     * @param TransferTarget $to where it stands then
     * @param string $text what its settlement is called
     *
     * @throws Refused when less is open, or the day is before the item's
     */
    public function write(
        Actor $actor,
        DocumentKind $kind,
        OpenItemRecord $from,
        int $amount,
        TransferTarget $to,
        Day $date,
        string $why,
        string $text,
    ): WrittenDocument {
        self::check($from, $amount, $date);
        $held = $from->reservation();
        if (null !== $held) {
            throw Refused::because('item', $held->refusal($from->number));
        }
        $base = self::base($from, $amount);
        $document = $this->documents->begin($actor, $from->side, $kind);
        $document->partyId = $to->party;
        $document->documentDate = $kind->carriesMoney() ? $from->documentDate : $date;
        $document->postingDate = $date;
        $document->dueDate = $to->due ?? $date;
        $document->currency = $from->currency;
        $document->rate = $from->document->rate;
        $document->net = $document->total = $amount;
        $document->totalBase = $base;
        $document->againstId = $from->document->id;
        $document->description = mb_substr(trim($why), 0, 255);
        $legs = self::legs($from, $amount, $base, $to);
        $written = $this->documents->write(
            $actor,
            new DocumentDraft(
                $document,
                array_map(static fn (TransferLeg $l): ItemDraft => ItemDraft::ofLeg($l, $to->due ?? $date), $legs),
                TransferEntry::draft($from->currency, $legs, $kind->word()),
                $text,
            ),
        );
        $this->book->settle(
            $actor,
            new SettlementRequest(
                $from->side,
                [
                    new PlacementRequest($from->id(), $from->open > 0 ? $amount : -$amount),
                    new PlacementRequest($written->items[0]->id(), $legs[0]->amount),
                ],
                [],
                $date,
                BigDecimal::of($document->rate),
                $document,
                null,
                $text,
            ),
        );

        return $written;
    }

    /**
     * The entry as writing would post it.
     *
     * @throws Refused as writing would
     */
    public static function preview(
        DocumentKind $kind,
        OpenItemRecord $from,
        int $amount,
        TransferTarget $to,
        Day $date,
    ): JournalDraft {
        self::check($from, $amount, $date);

        return TransferEntry::draft(
            $from->currency,
            self::legs($from, $amount, self::base($from, $amount), $to),
            $kind->word(),
        );
    }

    /** @return non-empty-list<TransferLeg> what settles the item, and what carries on */
    private static function legs(OpenItemRecord $from, int $amount, int $base, TransferTarget $to): array
    {
        $sign = $from->open <=> 0;
        // on the other side the same debt is seen from there: a customer's credit is owed to it
        $carries = $to->side === $from->side ? $sign : -$sign;

        return [
            new TransferLeg($from->side, $from->accountId, $from->partyId, -$sign * $amount, -$sign * $base),
            new TransferLeg($to->side, $to->account, $to->party, $carries * $amount, $carries * $base),
        ];
    }

    /** The item's own base goes with its amount, so no exchange difference arises. */
    private static function base(OpenItemRecord $from, int $amount): int
    {
        return $amount === abs($from->open)
            ? abs($from->openBase)
            : Rounding::proportion(abs($from->openBase), $amount, abs($from->open));
    }

    private static function check(OpenItemRecord $from, int $amount, Day $date): void
    {
        if ($amount <= 0 || $amount > abs($from->open)) {
            throw Refused::because(
                'amount',
                \sprintf(
                    '%s %s of %s is open; name that or less, and more than nothing.',
                    Money::of(abs($from->open), $from->currency)->decimal(),
                    $from->currency,
                    $from->number,
                ),
            );
        }
        if ($date->isBefore($from->postingDate)) {
            throw Refused::because(
                'date',
                \sprintf(
                    '%s was posted on %s; this cannot be dated before.',
                    $from->number,
                    $from->postingDate->long(),
                ),
            );
        }
    }
}
