<?php

declare(strict_types=1);

namespace Nelbix\App\Goods;

use Doctrine\ORM\Mapping as ORM;
use Nelbix\App\Platform\Stored;
use Nelbix\Core\Calendar\Day;

/** A quantity that an invoice waited for and that came with a delivery, or never will; from its day on. */
#[ORM\Entity]
#[ORM\Table(name: 'goods_arrival')]
class GoodsArrival
{
    use Stored;

    #[ORM\Column(type: 'day', nullable: true)]
    public ?Day $undoneOn = null;

    /** @param int|null $deliveryLineId null for what never comes */
    public function __construct(
        #[ORM\Column] public readonly int $awaitedId,
        #[ORM\Column(nullable: true)] public readonly ?int $deliveryLineId,
        #[ORM\Column] public readonly int $slipId,
        #[ORM\Column] public readonly int $accountId,
        #[ORM\Column(type: 'decimal', precision: 15, scale: 4)] public string $quantity,
        #[ORM\Column(type: 'bigint')] public readonly int $amount,
        #[ORM\Column(type: 'bigint')] public readonly int $amountBase,
        #[ORM\Column(type: 'day')] public readonly Day $movedOn,
    ) {
    }
}
