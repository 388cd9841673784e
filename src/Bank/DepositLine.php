<?php

declare(strict_types=1);

namespace Nelbix\App\Bank;

use Doctrine\ORM\Mapping as ORM;
use Nelbix\App\Platform\Stored;
use Nelbix\Core\Calendar\Day;

/** A receipt on a deposit slip. It is returned when the bank gives a check of the slip back. */
#[ORM\Entity]
#[ORM\Table(name: 'deposit_line')]
class DepositLine
{
    use Stored;

    #[ORM\Column(type: 'day', nullable: true)]
    public ?Day $returnedOn = null;

    public function __construct(
        #[ORM\ManyToOne, ORM\JoinColumn(nullable: false)] public readonly DepositSlip $slip,
        #[ORM\Column] public readonly int $documentId,
        #[ORM\Column(type: 'bigint')] public readonly int $amount,
        #[ORM\Column(type: 'bigint')] public readonly int $amountBase,
    ) {
    }
}
