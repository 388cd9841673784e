<?php

declare(strict_types=1);

namespace Nelbix\App\Books;

use Doctrine\ORM\Mapping as ORM;
use Nelbix\App\Platform\Stored;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Ledger\Side;

/** Items of one party set off against each other; undone or standing. */
#[ORM\Entity]
#[ORM\Table(name: 'settlement')]
class Settlement
{
    use Stored;

    #[ORM\Column(type: 'day', nullable: true)]
    public ?Day $undoneOn = null;

    #[ORM\Column(nullable: true)]
    public ?int $undoneById = null;

    #[ORM\Column(nullable: true)]
    public ?\DateTimeImmutable $undoneAt = null;

    public function __construct(
        #[ORM\Column] public readonly int $companyId,
        #[ORM\Column(length: 12, enumType: Side::class)] public readonly Side $side,
        #[ORM\Column] public readonly int $partyId,
        #[ORM\Column(length: 3, options: ['fixed' => true])] public readonly string $currency,
        #[ORM\Column(type: 'day')] public readonly Day $settledOn,
        #[ORM\Column(type: 'decimal', precision: 20, scale: 10)] public string $rate,
        #[ORM\Column(nullable: true)] public readonly ?int $documentId,
        #[ORM\Column(type: 'bigint')] public readonly int $exchange,
        #[ORM\Column] public readonly int $createdById,
        #[ORM\Column] public \DateTimeImmutable $createdAt,
    ) {
    }
}
