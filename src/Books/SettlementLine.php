<?php

declare(strict_types=1);

namespace Nelbix\App\Books;

use Doctrine\ORM\Mapping as ORM;
use Nelbix\App\Platform\Stored;

/** How much of an item a settlement takes: gross, in the item's sign. */
#[ORM\Entity]
#[ORM\Table(name: 'settlement_line')]
class SettlementLine
{
    use Stored;

    public function __construct(
        #[ORM\ManyToOne, ORM\JoinColumn(nullable: false)] public readonly Settlement $settlement,
        #[ORM\Column] public readonly int $itemId,
        #[ORM\Column(type: 'bigint')] public readonly int $applied,
        #[ORM\Column(type: 'bigint')] public readonly int $appliedBase,
    ) {
    }
}
