<?php

declare(strict_types=1);

namespace Nelbix\App\Ledger;

use Doctrine\ORM\Mapping as ORM;
use Nelbix\App\Platform\Stored;
use Nelbix\Core\Calendar\Day;

/** A posting period with a lock for the general ledger and one for each party ledger. */
#[ORM\Entity]
#[ORM\Table(name: 'period')]
class Period
{
    use Stored;

    #[ORM\Column]
    public bool $ledgerLocked = false;

    #[ORM\Column]
    public bool $payablesLocked = false;

    #[ORM\Column]
    public bool $receivablesLocked = false;

    public function __construct(
        #[ORM\Column] public readonly int $companyId,
        #[ORM\Column] public readonly int $year,
        #[ORM\Column] public readonly int $number,
        #[ORM\Column(type: 'day')] public readonly Day $firstDay,
        #[ORM\Column(type: 'day')] public readonly Day $lastDay,
    ) {
    }
}
