<?php

declare(strict_types=1);

namespace Nelbix\App\Ledger;

use Doctrine\ORM\Mapping as ORM;
use Nelbix\App\Platform\Stored;

/** A cost center, department or project. */
#[ORM\Entity]
#[ORM\Table(name: 'analysis_code')]
class AnalysisCode
{
    use Stored;

    #[ORM\Column(options: ['default' => false])]
    public bool $retired = false;

    public function __construct(
        #[ORM\Column] public readonly int $companyId,
        #[ORM\Column(length: 12)] public readonly string $kind,
        #[ORM\Column(length: 20)] public readonly string $code,
        #[ORM\Column(length: 120)] public string $name,
    ) {
    }
}
