<?php

declare(strict_types=1);

namespace Nelbix\App\Goods;

use Doctrine\ORM\Mapping as ORM;
use Nelbix\App\Books\Approval;
use Nelbix\App\Platform\Stored;
use Nelbix\Core\Calendar\Day;

/** What a vendor was asked to deliver, at which prices. Nothing is posted by it. */
#[ORM\Entity]
#[ORM\Table(name: 'purchase_order')]
class PurchaseOrder
{
    use Stored;

    /** Given last before the commit. */
    #[ORM\Column(length: 30, nullable: true)]
    public ?string $number = null;

    #[ORM\Column(type: 'day', nullable: true)]
    public ?Day $closedOn = null;

    #[ORM\Column(length: 255, options: ['default' => ''])]
    public string $closedWhy = '';

    /** Each change of it or of its lines counts, so that nobody decides on what they did not see. */
    #[ORM\Column(type: 'integer', options: ['default' => 0])]
    public int $changes = 0;

    #[ORM\Version, ORM\Column(type: 'integer', options: ['default' => 1])]
    public int $version = 1;

    public function __construct(
        #[ORM\Column] public readonly int $companyId,
        #[ORM\Column] public readonly int $partyId,
        #[ORM\Column(type: 'day')] public Day $orderedOn,
        #[ORM\Column(type: 'day', nullable: true)] public ?Day $wantedBy,
        #[ORM\Column(length: 3, options: ['fixed' => true])] public readonly string $currency,
        #[ORM\Column(length: 255)] public string $note,
        #[ORM\Column(length: 10, enumType: Approval::class, options: ['default' => 'none'])] public Approval $approval,
        /** Minor units of its currency. */
        #[ORM\Column(type: 'bigint')] public int $amount,
        /** What counts against a limit, base minor units. */
        #[ORM\Column(type: 'bigint')] public int $worth,
        #[ORM\Column] public readonly int $createdById,
        #[ORM\Column] public \DateTimeImmutable $createdAt,
    ) {
    }
}
