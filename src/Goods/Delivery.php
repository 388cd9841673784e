<?php

declare(strict_types=1);

namespace Nelbix\App\Goods;

use Doctrine\ORM\Mapping as ORM;
use Nelbix\App\Platform\Stored;
use Nelbix\Core\Calendar\Day;

/** Goods that a vendor delivered, valued at the agreed price: received, not invoiced, until an invoice or a return takes them. */
#[ORM\Entity]
#[ORM\Table(name: 'delivery')]
class Delivery
{
    use Stored;

    #[ORM\Column(type: 'day', nullable: true)]
    public ?Day $reversedOn = null;

    /** Given last before the commit. */
    #[ORM\Column(length: 30, nullable: true)]
    public ?string $number = null;

    #[ORM\Column(nullable: true)]
    public ?int $reversedById = null;

    #[ORM\Column(length: 255)]
    public string $reason = '';

    /** How it came: what was broken, wet, missing. */
    #[ORM\Column(length: 255, options: ['default' => ''])]
    public string $remark = '';

    /** What of it is neither invoiced nor sent back, base minor units. */
    #[ORM\Column(type: 'bigint', options: ['default' => 0])]
    public int $openBase = 0;

    /** Some of it is neither invoiced nor sent back. */
    #[ORM\Column(options: ['default' => true])]
    public bool $isOpen = true;

    public function __construct(
        #[ORM\Column] public readonly int $companyId,
        #[ORM\Column] public readonly int $partyId,
        #[ORM\Column(length: 60)] public readonly string $noteNumber,
        #[ORM\Column(type: 'day')] public readonly Day $deliveredOn,
        #[ORM\Column(length: 3, options: ['fixed' => true])] public readonly string $currency,
        #[ORM\Column(type: 'decimal', precision: 20, scale: 10)] public string $rate,
        #[ORM\Column(type: 'bigint')] public readonly int $amount,
        #[ORM\Column(type: 'bigint')] public readonly int $amountBase,
        #[ORM\Column] public readonly int $accountId,
        #[ORM\Column] public readonly int $createdById,
        #[ORM\Column] public \DateTimeImmutable $createdAt,
    ) {
    }
}
