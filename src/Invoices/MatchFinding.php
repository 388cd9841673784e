<?php

declare(strict_types=1);

namespace Nelbix\App\Invoices;

use Doctrine\ORM\Mapping as ORM;
use Nelbix\App\Platform\Stored;
use Nelbix\Core\Matching\Over;

/** A reason why a posted invoice is held, and what was decided on it. */
#[ORM\Entity]
#[ORM\Table(name: 'match_finding')]
class MatchFinding
{
    use Stored;

    #[ORM\Column(length: 10, nullable: true, enumType: MatchDecision::class)]
    public ?MatchDecision $decided = null;

    #[ORM\Column(nullable: true)]
    public ?int $decidedById = null;

    #[ORM\Column(nullable: true)]
    public ?\DateTimeImmutable $decidedAt = null;

    public function __construct(
        #[ORM\Column] public readonly int $companyId,
        #[ORM\Column] public readonly int $documentId,
        #[ORM\Column(type: 'smallint', nullable: true)] public readonly ?int $linePosition,
        #[ORM\Column(length: 15, enumType: Over::class)] public readonly Over $reason,
        #[ORM\Column(length: 255)] public readonly string $said,
        #[ORM\Column(nullable: true)] public readonly ?int $orderedById,
    ) {
    }
}
