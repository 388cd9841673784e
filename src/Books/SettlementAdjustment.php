<?php

declare(strict_types=1);

namespace Nelbix\App\Books;

use Doctrine\ORM\Mapping as ORM;
use Nelbix\App\Platform\Stored;
use Nelbix\Core\Settlement\AdjustmentKind;

/** A discount, write-off or withholding of a settlement. */
#[ORM\Entity]
#[ORM\Table(name: 'settlement_adjustment')]
#[ORM\Index(name: 'recovers_idx', columns: ['recovers_id'])]
class SettlementAdjustment
{
    use Stored;

    public function __construct(
        #[ORM\ManyToOne, ORM\JoinColumn(nullable: false)] public readonly Settlement $settlement,
        #[ORM\Column] public readonly int $itemId,
        #[ORM\Column(length: 15, enumType: AdjustmentKind::class)] public readonly AdjustmentKind $kind,
        #[ORM\Column(type: 'bigint')] public readonly int $amount,
        #[ORM\Column(type: 'bigint')] public readonly int $amountBase,
        #[ORM\Column] public readonly int $accountId,
        #[ORM\Column(length: 255, options: ['default' => ''])] public readonly string $reason = '',
        /** the adjustment that wrote the debt off which this recovers */
        #[ORM\Column(nullable: true)] public readonly ?int $recoversId = null,
    ) {
    }
}
