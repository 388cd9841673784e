<?php

declare(strict_types=1);

namespace Nelbix\App\Invoices;

use Doctrine\ORM\Mapping as ORM;
use Nelbix\App\Platform\Stored;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Ledger\Side;

/** A pile of paper entered together: drafts that are posted whole, checked against the count and total on the tape. */
#[ORM\Entity]
#[ORM\Table(name: 'batch')]
class Batch
{
    use Stored;

    #[ORM\Column(nullable: true)]
    public ?\DateTimeImmutable $postedAt = null;

    public function __construct(
        #[ORM\Column] public readonly int $companyId,
        #[ORM\Column(length: 12, enumType: Side::class)] public readonly Side $side,
        #[ORM\Column(length: 80)] public string $name,
        #[ORM\Column(type: 'day')] public Day $postingDate,
        #[ORM\Column(nullable: true)] public ?int $controlCount,
        #[ORM\Column(type: 'bigint', nullable: true)] public ?int $controlTotal,
        #[ORM\Column] public readonly int $createdById,
        #[ORM\Column] public \DateTimeImmutable $createdAt,
    ) {
    }
}
