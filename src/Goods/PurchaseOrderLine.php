<?php

declare(strict_types=1);

namespace Nelbix\App\Goods;

use Doctrine\ORM\Mapping as ORM;
use Nelbix\App\Platform\Stored;
use Nelbix\Core\Calendar\Day;

/** Goods or a service of an order; how much of it came, and how much was invoiced. */
#[ORM\Entity]
#[ORM\Table(name: 'purchase_order_line')]
class PurchaseOrderLine
{
    use Stored;

    #[ORM\Column(type: 'decimal', precision: 15, scale: 4)]
    public string $received = '0';

    #[ORM\Column(type: 'decimal', precision: 15, scale: 4)]
    public string $invoiced = '0';

    public function __construct(
        #[ORM\ManyToOne, ORM\JoinColumn(name: 'order_id', nullable: false)] public readonly PurchaseOrder $order,
        #[ORM\Column(type: 'smallint')] public int $position,
        /** Accepted by whoever ordered it. */
        #[ORM\Column] public bool $service,
        #[ORM\Column] public int $accountId,
        #[ORM\Column(length: 255)] public string $text,
        #[ORM\Column(type: 'decimal', precision: 15, scale: 4)] public string $quantity,
        /** A code of UN/ECE recommendation 20. */
        #[ORM\Column(length: 3)] public string $unit,
        #[ORM\Column(type: 'decimal', precision: 17, scale: 6)] public string $price,
        #[ORM\Column(type: 'bigint')] public int $amount,
        #[ORM\Column(nullable: true)] public ?int $taxCodeId,
        #[ORM\Column(nullable: true)] public ?int $costCenterId,
        #[ORM\Column(nullable: true)] public ?int $departmentId,
        #[ORM\Column(nullable: true)] public ?int $projectId,
        #[ORM\Column(type: 'day', nullable: true)] public ?Day $wantedBy,
    ) {
    }
}
