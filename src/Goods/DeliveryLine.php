<?php

declare(strict_types=1);

namespace Nelbix\App\Goods;

use Doctrine\ORM\Mapping as ORM;
use Nelbix\App\Platform\Stored;

/** What came of one kind of goods: quantity at order price. */
#[ORM\Entity]
#[ORM\Table(name: 'delivery_line')]
class DeliveryLine
{
    use Stored;

    public function __construct(
        #[ORM\ManyToOne, ORM\JoinColumn(nullable: false)] public readonly Delivery $delivery,
        #[ORM\Column(type: 'smallint')] public readonly int $position,
        #[ORM\Column] public readonly int $accountId,
        #[ORM\Column(length: 255)] public readonly string $text,
        #[ORM\Column(type: 'decimal', precision: 15, scale: 4)] public string $quantity,
        #[ORM\Column(type: 'decimal', precision: 17, scale: 6)] public string $price,
        #[ORM\Column(type: 'bigint')] public readonly int $amount,
        #[ORM\Column(type: 'bigint')] public readonly int $amountBase,
        #[ORM\Column(nullable: true)] public readonly ?int $costCenterId,
        #[ORM\Column(nullable: true)] public readonly ?int $departmentId,
        #[ORM\Column(nullable: true)] public readonly ?int $projectId,
    ) {
    }
}
