<?php

declare(strict_types=1);

namespace Nelbix\App\Platform;

use Doctrine\ORM\Mapping as ORM;

/** Who did what to which record, and when. */
#[ORM\Entity]
#[ORM\Table(name: 'history')]
class HistoryEntry
{
    /** There are far more of them than of anything else. */
    #[ORM\Id, ORM\GeneratedValue, ORM\Column(type: 'bigint')]
    public ?int $id = null;

    public function __construct(
        #[ORM\Column] public readonly int $companyId,
        #[ORM\Column(length: 30)] public readonly string $subject,
        #[ORM\Column] public readonly int $subjectId,
        #[ORM\Column(length: 60)] public readonly string $action,
        #[ORM\Column(length: 1000)] public readonly string $detail,
        #[ORM\Column] public readonly int $userId,
        #[ORM\Column] public readonly \DateTimeImmutable $happenedAt,
    ) {
    }
}
