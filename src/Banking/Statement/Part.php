<?php

declare(strict_types=1);

namespace Nelbix\App\Banking\Statement;

use Doctrine\ORM\Mapping as ORM;
use Nelbix\App\Platform\Stored;

/** A part of a line and the journal entry that it is. All the parts of a line add up to it; those of an entry to what it moved here. */
#[ORM\Entity]
#[ORM\Table(name: 'statement_part')]
class Part
{
    use Stored;

    #[ORM\Column(nullable: true)]
    public ?int $entryId = null;

    #[ORM\Column(nullable: true)]
    public ?int $documentId = null;

    #[ORM\Column(nullable: true)]
    public ?int $ruleId = null;

    #[ORM\Column(nullable: true)]
    public ?int $undoneById = null;

    #[ORM\Column(nullable: true)]
    public ?\DateTimeImmutable $undoneAt = null;

    /**
     * @param int $amount minor units of the account's currency, in the line's sign
     * @param bool $own it was posted from this line, so undoing reverses it
     * @param string $why what found it; empty for the clerk's own choice
     */
    public function __construct(
        #[ORM\Column] public readonly int $lineId,
        #[ORM\Column] public readonly int $companyId,
        #[ORM\Column] public readonly int $bankAccountId,
        #[ORM\Column(length: 10, enumType: PartKind::class)] public readonly PartKind $kind,
        #[ORM\Column(type: 'bigint')] public readonly int $amount,
        #[ORM\Column] public readonly bool $own,
        #[ORM\Column(length: 255)] public readonly string $why,
        #[ORM\Column] public readonly int $placedById,
        #[ORM\Column] public \DateTimeImmutable $placedAt,
    ) {
    }
}
