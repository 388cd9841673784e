<?php

declare(strict_types=1);

namespace Nelbix\App\Books;

use Doctrine\ORM\Mapping as ORM;
use Nelbix\App\Platform\Stored;
use Nelbix\Core\Calendar\Day;

/** A discount step of an open item. */
#[ORM\Entity]
#[ORM\Table(name: 'item_discount')]
class ItemDiscount
{
    use Stored;

    public function __construct(
        #[ORM\ManyToOne, ORM\JoinColumn(nullable: false)] public readonly OpenItemRecord $item,
        #[ORM\Column(type: 'day')] public readonly Day $through,
        #[ORM\Column(type: 'decimal', precision: 9, scale: 6)] public readonly string $percent,
        #[ORM\Column(type: 'bigint')] public readonly int $amount,
    ) {
    }
}
