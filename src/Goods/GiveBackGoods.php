<?php

declare(strict_types=1);

namespace Nelbix\App\Goods;

use Nelbix\App\Books\Document;
use Nelbix\App\Books\TakenBack;
use Nelbix\App\Platform\Actor;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Ledger\DocumentKind;
use Nelbix\Core\Ledger\Side;

/** Goods that a reversed invoice took are received and not invoiced again; what it waited for is ordered only. */
final readonly class GiveBackGoods implements TakenBack
{
    public function __construct(
        private GoodsBook $book,
        private AwaitedBook $awaited,
        private SettleAwaited $settle,
        private ReturnedGoods $returned,
    ) {
    }

    public function notBefore(Document $document): ?Day
    {
        return self::waits($document) ? $this->awaited->lastUndone($document->id()) : null;
    }

    private static function waits(Document $document): bool
    {
        return Side::Payables === $document->side && DocumentKind::Invoice === $document->kind;
    }

    public function takeBack(Actor $actor, Document $document, Day $day): void
    {
        if (
            Side::Payables === $document->side
            && \in_array($document->kind, [DocumentKind::DebitNote, DocumentKind::CreditNote], true)
        ) {
            $this->returned->giveBack($actor, $document->id(), $day);
        }
        if (!self::waits($document)) {
            return;
        }
        $this->returned->mustNotHaveGoneBack($document->id());
        $this->settle->takeBackDocument($actor, $document->id(), $day);
        $this->book->giveBack($actor, $day, $document->id());
        $this->awaited->end($document->id(), $day);
    }
}
