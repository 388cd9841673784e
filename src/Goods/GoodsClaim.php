<?php

declare(strict_types=1);

namespace Nelbix\App\Goods;

use Doctrine\ORM\Mapping as ORM;
use Nelbix\App\Platform\Stored;
use Nelbix\Core\Calendar\Day;

/** Invoiced goods that went back to their vendor, and the claim that says so. */
#[ORM\Entity]
#[ORM\Table(name: 'goods_claim')]
class GoodsClaim
{
    use Stored;

    /** The claim was reversed on the day. */
    #[ORM\Column(type: 'day', nullable: true)]
    public ?Day $undoneOn = null;

    public function __construct(
        #[ORM\Column] public readonly int $slipId,
        #[ORM\Column] public readonly int $deliveryLineId,
        #[ORM\Column] public readonly int $documentId,
        #[ORM\Column] public readonly int $invoiceId,
        /** Of the invoice's line. */
        #[ORM\Column(type: 'smallint')] public readonly int $linePosition,
        #[ORM\Column(type: 'decimal', precision: 15, scale: 4)] public string $quantity,
        #[ORM\Column(type: 'day')] public readonly Day $movedOn,
    ) {
    }
}
