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

    /** Given last before the commit, like the sequence and the text that names other numbers; never changed afterwards. */
    #[ORM\Column(length: 30, nullable: true)]
    public ?string $number = null;

    #[ORM\Column(nullable: true)]
    public ?int $sequence = null;

    #[ORM\Column(length: 255)]
    public string $text = '';

    public function __construct(
        #[ORM\Column] public readonly int $companyId,
        #[ORM\Column(type: 'smallint')] public readonly int $year,
        #[ORM\Column(type: 'day')] public readonly Day $postingDate,
        #[ORM\Column(length: 3, options: ['fixed' => true])] public readonly string $currency,
        #[ORM\Column(length: 12, enumType: SourceKind::class, nullable: true)] public readonly ?SourceKind $sourceKind,
        #[ORM\Column(nullable: true)] public readonly ?int $sourceId,
        #[ORM\Column(nullable: true)] public readonly ?int $reversesId,
        #[ORM\Column] public readonly bool $bypass,
        #[ORM\Column] public readonly int $createdById,
        #[ORM\Column] public readonly \DateTimeImmutable $createdAt,
    ) {
    }
}
