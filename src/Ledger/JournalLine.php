<?php

declare(strict_types=1);

namespace Nelbix\App\Ledger;

use Doctrine\ORM\Mapping as ORM;
use Nelbix\App\Platform\Stored;
use Nelbix\Core\Calendar\Day;

/** A line of a posted entry: immutable, in ledger sign (debit +). */
#[ORM\Entity]
#[ORM\Table(name: 'journal_line')]
class JournalLine
{
    use Stored;

    public function __construct(
        #[ORM\ManyToOne, ORM\JoinColumn(nullable: false)] public readonly JournalEntry $entry,
        #[ORM\Column(type: 'smallint')] public readonly int $position,
        #[ORM\Column] public readonly int $accountId,
        #[ORM\Column(type: 'day')] public readonly Day $postingDate,
        #[ORM\Column(type: 'bigint')] public readonly int $base,
        #[ORM\Column(type: 'bigint')] public readonly int $amount,
        #[ORM\Column(length: 255)] public readonly string $text,
        #[ORM\Column(nullable: true)] public readonly ?int $partyId,
        #[ORM\Column(nullable: true)] public readonly ?int $costCenterId,
        #[ORM\Column(nullable: true)] public readonly ?int $departmentId,
        #[ORM\Column(nullable: true)] public readonly ?int $projectId,
    ) {
    }
}
