<?php

declare(strict_types=1);

namespace Nelbix\App\Goods;

use Doctrine\ORM\Mapping as ORM;
use Nelbix\App\Platform\Stored;
use Nelbix\Core\Calendar\Day;

/**
 * Goods that went back to a vendor, what was received and will not be invoiced, what came after its invoice, or what an invoice waited for
 * and never comes; with its reason.
 */
#[ORM\Entity]
#[ORM\Table(name: 'goods_slip')]
class GoodsSlip
{
    use Stored;

    /** Given last before the commit. */
    #[ORM\Column(length: 30, nullable: true)]
    public ?string $number = null;

    #[ORM\Column(type: 'day', nullable: true)]
    public ?Day $undoneOn = null;

    #[ORM\Column(length: 255, options: ['default' => ''])]
    public string $undoneWhy = '';

    public function __construct(
        #[ORM\Column] public readonly int $companyId,
        #[ORM\Column(length: 10, enumType: MoveKind::class)] public readonly MoveKind $kind,
        #[ORM\Column] public readonly int $partyId,
        #[ORM\Column(type: 'day')] public readonly Day $movedOn,
        #[ORM\Column(length: 255)] public readonly string $reason,
        #[ORM\Column(type: 'bigint')] public readonly int $amountBase,
        #[ORM\Column] public readonly int $createdById,
        #[ORM\Column] public \DateTimeImmutable $createdAt,
        /** The delivery that brought what an invoice waited for. */
        #[ORM\Column(nullable: true)] public readonly ?int $deliveryId = null,
        /** The invoice that waited. */
        #[ORM\Column(nullable: true)] public readonly ?int $documentId = null,
    ) {
    }
}
