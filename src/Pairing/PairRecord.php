<?php

declare(strict_types=1);

namespace Nelbix\App\Pairing;

use Doctrine\ORM\Mapping as ORM;
use Nelbix\App\Platform\Stored;

/** Rows that belong together, or are asked about. Undone ones have no row. */
#[ORM\Entity]
#[ORM\Table(name: 'pairing_pair')]
class PairRecord
{
    use Stored;

    /** What its difference was posted as. */
    #[ORM\Column(nullable: true)]
    public ?int $entryId = null;

    #[ORM\Column(nullable: true)]
    public ?int $documentId = null;

    #[ORM\Column(nullable: true)]
    public ?int $decidedById = null;

    #[ORM\Column(nullable: true)]
    public ?\DateTimeImmutable $decidedAt = null;

    /** @param int $difference right − left, minor units of the set's currency */
    public function __construct(
        #[ORM\Column] public readonly int $setId,
        #[ORM\Column(nullable: true)] public readonly ?int $runId,
        #[ORM\Column(nullable: true)] public readonly ?int $ruleId,
        #[ORM\Column] public readonly int $ruleNumber,
        #[ORM\Column(length: 10, enumType: PairState::class)] public PairState $state,
        #[ORM\Column(type: 'bigint')] public readonly int $difference,
        #[ORM\Column] public readonly int $madeById,
        #[ORM\Column] public \DateTimeImmutable $madeAt,
    ) {
    }
}
