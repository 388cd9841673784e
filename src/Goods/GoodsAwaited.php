<?php

declare(strict_types=1);

namespace Nelbix\App\Goods;

use Doctrine\ORM\Mapping as ORM;
use Nelbix\App\Platform\Stored;
use Nelbix\Core\Calendar\Day;

/** Ordered goods that a line of an invoice says and that have not come: invoiced, not received, until they arrive. */
#[ORM\Entity]
#[ORM\Table(name: 'goods_awaited')]
class GoodsAwaited
{
    use Stored;

    /** Nothing arrives of it before the last day on which an arrival was taken back. */
    #[ORM\Column(type: 'day', nullable: true)]
    public ?Day $lastUndoneOn = null;

    /** The invoice was reversed on the day. */
    #[ORM\Column(type: 'day', nullable: true)]
    public ?Day $undoneOn = null;

    #[ORM\Column(type: 'decimal', precision: 15, scale: 4)]
    public string $openQuantity;

    #[ORM\Column(type: 'bigint')]
    public int $openAmount;

    #[ORM\Column(type: 'bigint')]
    public int $openBase;

    public function __construct(
        #[ORM\Column] public readonly int $companyId,
        #[ORM\Column] public readonly int $documentId,
        #[ORM\Column(type: 'smallint')] public readonly int $linePosition,
        #[ORM\Column] public readonly int $orderLineId,
        #[ORM\Column] public readonly int $accountId,
        /** Where what is invoiced more or less than is accrued then goes. */
        #[ORM\Column] public readonly int $varianceAccountId,
        #[ORM\Column(type: 'decimal', precision: 15, scale: 4)] public string $quantity,
        #[ORM\Column(type: 'bigint')] public readonly int $amount,
        #[ORM\Column(type: 'bigint')] public readonly int $amountBase,
        #[ORM\Column(type: 'day')] public readonly Day $invoicedOn,
    ) {
        [$this->openQuantity, $this->openAmount, $this->openBase] = [$quantity, $amount, $amountBase];
    }
}
