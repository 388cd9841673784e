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

    /** Counted up by everything that is posted in it. */
    #[ORM\Column(options: ['default' => 1])]
    public int $version = 1;

    #[ORM\Column(options: ['default' => false])]
    public bool $ledgerLocked = false;

    #[ORM\Column(options: ['default' => false])]
    public bool $payablesLocked = false;

    #[ORM\Column(options: ['default' => false])]
    public bool $receivablesLocked = false;

    public function __construct(
        #[ORM\Column] public readonly int $companyId,
        #[ORM\Column(type: 'smallint')] public readonly int $year,
        #[ORM\Column(type: 'smallint')] public readonly int $number,
        #[ORM\Column(type: 'day')] public readonly Day $firstDay,
        #[ORM\Column(type: 'day')] public readonly Day $lastDay,
    ) {
    }

    /** "2026/05" */
    public function name(): string
    {
        return \sprintf('%d/%02d', $this->year, $this->number);
    }
}
