<?php

declare(strict_types=1);

namespace Nelbix\App\Invoices;

use Doctrine\ORM\Mapping as ORM;
use Nelbix\App\Platform\Stored;
use Nelbix\Core\Calendar\Day;

/** A note on a document or on a party; a task when it is for somebody. */
#[ORM\Entity]
#[ORM\Table(name: 'note')]
class Note
{
    use Stored;

    #[ORM\Column(nullable: true)]
    public ?\DateTimeImmutable $doneAt = null;

    #[ORM\Column(nullable: true)]
    public ?int $doneById = null;

    public function __construct(
        #[ORM\Column] public readonly int $companyId,
        #[ORM\Column(nullable: true)] public readonly ?int $documentId,
        #[ORM\Column(nullable: true)] public readonly ?int $partyId,
        #[ORM\Column(length: 1000)] public readonly string $text,
        #[ORM\Column(nullable: true)] public readonly ?int $forUserId,
        #[ORM\Column(type: 'day', nullable: true)] public readonly ?Day $dueOn,
        #[ORM\Column] public readonly int $createdById,
        #[ORM\Column] public \DateTimeImmutable $createdAt,
    ) {
    }
}
