<?php

declare(strict_types=1);

namespace Nelbix\App\Money;

use Doctrine\ORM\Mapping as ORM;
use Nelbix\App\Platform\Stored;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Settlement\AdjustmentKind;

/**
 * A part of an item that the customer disputes, a credit note is to follow for, or somebody asked to let go. It stands as an item of its
 * own until a credit note settles it, somebody decides on it, or it drops back.
 */
#[ORM\Entity]
#[ORM\Table(name: 'claim')]
class Claim
{
    use Stored;

    #[ORM\Column(nullable: true)]
    public ?int $personId = null;

    #[ORM\Column(type: 'day', nullable: true)]
    public ?Day $followUpOn = null;

    /** What it is written off as once somebody else agrees; null for a claim that waits for the customer, or for us. */
    #[ORM\Column(length: 15, enumType: AdjustmentKind::class, nullable: true)]
    public ?AdjustmentKind $writeOffAs = null;

    #[ORM\Column(nullable: true)]
    public ?int $writeOffAccountId = null;

    #[ORM\Column(length: 10, enumType: ClaimState::class)]
    public ClaimState $state = ClaimState::Open;

    #[ORM\Column(nullable: true)]
    public ?int $decidedById = null;

    #[ORM\Column(nullable: true)]
    public ?\DateTimeImmutable $decidedAt = null;

    #[ORM\Column(length: 255, options: ['default' => ''])]
    public string $decidedWhy = '';

    #[ORM\Version, ORM\Column(type: 'integer', options: ['default' => 1])]
    public int $version = 1;

    public function __construct(
        #[ORM\Column] public readonly int $companyId,
        #[ORM\Column] public readonly int $documentId,
        #[ORM\Column] public readonly int $itemId,
        #[ORM\Column] public readonly int $ofItemId,
        #[ORM\Column(length: 12, enumType: ClaimKind::class)] public readonly ClaimKind $kind,
        #[ORM\Column(length: 255)] public readonly string $text,
        #[ORM\Column] public readonly int $askedById,
        #[ORM\Column] public \DateTimeImmutable $askedAt,
    ) {
    }
}
