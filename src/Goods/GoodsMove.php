<?php

declare(strict_types=1);

namespace Nelbix\App\Goods;

use Doctrine\ORM\Mapping as ORM;
use Nelbix\App\Platform\Stored;
use Nelbix\Core\Calendar\Day;

/** A quantity of a delivery line that an invoice, a return or a clearing took out of received-not-invoiced, from its day on. */
#[ORM\Entity]
#[ORM\Table(name: 'goods_move')]
class GoodsMove
{
    use Stored;

    #[ORM\Column(type: 'day', nullable: true)]
    public ?Day $undoneOn = null;

    public function __construct(
        #[ORM\Column] public readonly int $deliveryLineId,
        #[ORM\Column(length: 10, enumType: MoveKind::class)] public readonly MoveKind $kind,
        #[ORM\Column] public readonly int $accountId,
        #[ORM\Column(nullable: true)] public readonly ?int $documentId,
        #[ORM\Column(type: 'smallint', nullable: true)] public readonly ?int $linePosition,
        #[ORM\Column(nullable: true)] public readonly ?int $slipId,
        #[ORM\Column(type: 'decimal', precision: 15, scale: 4)] public string $quantity,
        #[ORM\Column(type: 'bigint')] public readonly int $amount,
        #[ORM\Column(type: 'bigint')] public readonly int $amountBase,
        #[ORM\Column(type: 'day')] public readonly Day $movedOn,
        /** Where what was invoiced more or less than accrued went. */
        #[ORM\Column(nullable: true)] public readonly ?int $varianceAccountId = null,
    ) {
    }
}
