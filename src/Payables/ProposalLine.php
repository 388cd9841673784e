<?php

declare(strict_types=1);

namespace Nelbix\App\Payables;

use Doctrine\ORM\Mapping as ORM;
use Nelbix\App\Platform\Stored;
use Nelbix\Core\Proposal\Reason;

/** What a proposal decided on an item, and what the clerk made of it. Amounts in the item's own sign. */
#[ORM\Entity]
#[ORM\Table(name: 'proposal_line')]
class ProposalLine
{
    use Stored;

    #[ORM\Column]
    public bool $dropped = false;

    /** Left out by the rules and taken in by the clerk. */
    #[ORM\Column(options: ['default' => false])]
    public bool $added = false;

    /** The discount that holds on the pay date. */
    #[ORM\Column(type: 'bigint', options: ['default' => 0])]
    public int $offered;

    /** What is settled of the item, gross: all that was open, or a part. */
    #[ORM\Column(type: 'bigint', options: ['default' => 0])]
    public int $applied;

    /**
     * @param int $open what was open when it was decided
     * @param int $discount taken
     * @param int $withholding withheld for the tax office
     */
    public function __construct(
        #[ORM\ManyToOne, ORM\JoinColumn(nullable: false)] public readonly Proposal $proposal,
        #[ORM\Column] public readonly int $itemId,
        #[ORM\Column(nullable: true)] public ?int $payment,
        #[ORM\Column] public bool $isIn,
        #[ORM\Column(length: 30, enumType: Reason::class)] public readonly Reason $reason,
        #[ORM\Column(type: 'bigint')] public readonly int $open,
        #[ORM\Column(type: 'bigint')] public int $discount,
        #[ORM\Column(type: 'bigint')] public readonly int $stake,
        #[ORM\Column(type: 'bigint', options: ['default' => 0])] public int $withholding = 0,
    ) {
        $this->applied = $open;
        $this->offered = $discount;
    }

    /** What moves. */
    public function pay(): int
    {
        return $this->applied - $this->discount - $this->withholding;
    }
}
