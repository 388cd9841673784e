<?php

declare(strict_types=1);

namespace Nelbix\App\Payables;

use Doctrine\ORM\Mapping as ORM;
use Nelbix\App\Platform\Stored;

/** One payment of a proposal: to whom, how and where to. Its amount is what its lines add up to. */
#[ORM\Entity]
#[ORM\Table(name: 'proposal_payment')]
class ProposalPayment
{
    use Stored;

    /** Another account of the payee; null for the first. */
    #[ORM\Column(nullable: true)]
    public ?int $partyBankId = null;

    /** The number of a check written by hand, or what a wire is known by. */
    #[ORM\Column(length: 60, options: ['default' => ''])]
    public string $reference = '';

    #[ORM\Column(length: 255, options: ['default' => ''])]
    public string $note = '';

    #[ORM\Column(nullable: true)]
    public ?int $documentId = null;

    public function __construct(
        #[ORM\ManyToOne, ORM\JoinColumn(nullable: false)] public readonly Proposal $proposal,
        #[ORM\Column] public readonly int $payment,
        #[ORM\Column] public readonly int $partyId,
        #[ORM\Column(length: 10, enumType: PayBy::class)] public PayBy $payBy,
    ) {
    }
}
