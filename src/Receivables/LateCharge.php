<?php

declare(strict_types=1);

namespace Nelbix\App\Receivables;

use Doctrine\ORM\Mapping as ORM;
use Nelbix\App\Platform\Stored;
use Nelbix\Core\Calendar\Day;

/**
 * Up to which day an item was charged for being late: by a document, or not at all because somebody waived it.
 *
 * @phpstan-type Worked array{rate: string, spans: list<array{after: string, through: string, days: int, open: int}>}
 */
#[ORM\Entity]
#[ORM\Table(name: 'late_charge')]
class LateCharge
{
    use Stored;

    /** @param Worked|null $worked percent a year, and what was open from day to day, minor units; null for one of before it was kept */
    public function __construct(
        #[ORM\Column] public readonly int $companyId,
        #[ORM\Column] public readonly int $itemId,
        #[ORM\Column(nullable: true)] public readonly ?int $documentId,
        #[ORM\Column(type: 'day')] public readonly Day $throughOn,
        #[ORM\Column(type: 'bigint')] public readonly int $amount,
        #[ORM\Column(length: 255, options: ['default' => ''])] public readonly string $waivedWhy,
        #[ORM\Column] public readonly int $madeById,
        #[ORM\Column] public \DateTimeImmutable $madeAt,
        #[ORM\Column(type: 'json', nullable: true)] public readonly ?array $worked = null,
    ) {
    }
}
