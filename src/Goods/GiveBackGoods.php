<?php

declare(strict_types=1);

namespace Nelbix\App\Goods;

use Nelbix\App\Books\Document;
use Nelbix\App\Books\TakenBack;
use Nelbix\App\Platform\Actor;
use Nelbix\Core\Calendar\Day;

/** Goods that a reversed invoice took are received and not invoiced again. */
final readonly class GiveBackGoods implements TakenBack
{
    public function __construct(private GoodsBook $book)
    {
    }

    public function takeBack(Actor $actor, Document $document, Day $day): void
    {
        $this->book->giveBack($actor, $day, $document->id());
    }
}
