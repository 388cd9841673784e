<?php

declare(strict_types=1);

namespace Nelbix\App\Payables;

use Doctrine\ORM\Mapping as ORM;
use Nelbix\App\Platform\Stored;
use Nelbix\Core\Proposal\Reason;

/** What a proposal decided on an item. */
#[ORM\Entity]
#[ORM\Table(name: 'proposal_line')]
class ProposalLine
{
    use Stored;

    #[ORM\Column]
    public bool $dropped = false;

    public function __construct(
        #[ORM\ManyToOne, ORM\JoinColumn(nullable: false)]
        public readonly Proposal $proposal,
        #[ORM\Column]
        public readonly int $itemId,
        #[ORM\Column]
        public readonly ?int $payment,
        #[ORM\Column]
        public readonly bool $isIn,
        #[ORM\Column(length: 20, enumType: Reason::class)]
        public readonly Reason $reason,
        #[ORM\Column(type: 'bigint')]
        public readonly int $open,
        #[ORM\Column(type: 'bigint')]
        public readonly int $discount,
        #[ORM\Column(type: 'bigint')]
        public readonly int $stake,
    ) {
    }
}
