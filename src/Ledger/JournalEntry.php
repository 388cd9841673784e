<?php

declare(strict_types=1);

namespace Nelbix\App\Ledger;

use Doctrine\ORM\Mapping as ORM;
use Nelbix\App\Platform\Stored;
use Nelbix\Core\Calendar\Day;

/** A posted entry: immutable. Only LedgerWriter makes one. */
#[ORM\Entity]
#[ORM\Table(name: 'journal_entry')]
class JournalEntry
{
    use Stored;

    public function __construct(
        #[ORM\Column] public readonly int $companyId,
        #[ORM\Column(length: 30)] public readonly string $number,
        #[ORM\Column] public readonly int $year,
        #[ORM\Column] public readonly int $sequence,
        #[ORM\Column(type: 'day')] public readonly Day $postingDate,
        #[ORM\Column(length: 3)] public readonly string $currency,
        #[ORM\Column(length: 255)] public readonly string $text,
        #[ORM\Column(length: 12, enumType: SourceKind::class)] public readonly ?SourceKind $sourceKind,
        #[ORM\Column] public readonly ?int $sourceId,
        #[ORM\Column] public readonly ?int $reversesId,
        #[ORM\Column] public readonly bool $bypass,
        #[ORM\Column] public readonly int $createdById,
        #[ORM\Column] public readonly \DateTimeImmutable $createdAt,
    ) {
    }
}
