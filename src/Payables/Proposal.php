<?php

declare(strict_types=1);

namespace Nelbix\App\Payables;

use Doctrine\ORM\Mapping as ORM;
use Nelbix\App\Books\Reservation;
use Nelbix\App\Platform\Stored;
use Nelbix\Core\Calendar\Day;

/** A payment proposal, from review to posted run. */
#[ORM\Entity]
#[ORM\Table(name: 'proposal')]
class Proposal
{
    use Stored;

    #[ORM\Column(length: 255, nullable: true)]
    public ?string $refusedReason = null;

    #[ORM\Column(nullable: true)]
    public ?int $decidedById = null;

    #[ORM\Column(nullable: true)]
    public ?\DateTimeImmutable $decidedAt = null;

    /** The digest of what changed underneath, as somebody accepted it. */
    #[ORM\Column(length: 64, options: ['default' => ''])]
    public string $accepted = '';

    #[ORM\Version, ORM\Column(type: 'integer', options: ['default' => 1])]
    public int $version = 1;

    /** @param array<string, string> $criteria as they were asked for */
    public function __construct(
        #[ORM\Column] public readonly int $companyId,
        #[ORM\Column(length: 30)] public readonly string $number,
        #[ORM\Column(length: 10, enumType: ProposalState::class)] public ProposalState $state,
        #[ORM\Column(type: 'day')] public readonly Day $payDate,
        #[ORM\Column(type: 'day')] public readonly Day $dueThrough,
        #[ORM\Column(type: 'day')] public readonly Day $againOn,
        #[ORM\Column] public readonly int $bankAccountId,
        #[ORM\Column(length: 30)] public readonly string $method,
        #[ORM\Column(type: 'json')] public readonly array $criteria,
        #[ORM\Column] public readonly int $createdById,
        #[ORM\Column] public \DateTimeImmutable $createdAt,
    ) {
    }

    /** How its items are held. */
    public function reservation(): Reservation
    {
        return new Reservation($this->id(), $this->number);
    }
}
