<?php

declare(strict_types=1);

namespace Nelbix\App\Goods;

use Nelbix\App\Platform\Actor;
use Symfony\Component\DependencyInjection\Attribute\AutoconfigureTag;

/** An area that is told when goods come that an invoice waits for, or when they turn out not to have come. Inside the transaction. */
#[AutoconfigureTag]
interface GoodsCame
{
    /** @param int $documentId of the invoice; what it still waits for is written already */
    public function came(Actor $actor, int $documentId): void;

    /** @param int $documentId of an invoice that waits again */
    public function gone(Actor $actor, int $documentId): void;
}
