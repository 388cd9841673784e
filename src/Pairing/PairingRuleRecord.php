<?php

declare(strict_types=1);

namespace Nelbix\App\Pairing;

use Doctrine\ORM\Mapping as ORM;
use Nelbix\App\Platform\Stored;

/** A rule of a set, as a sentence with its clauses. */
#[ORM\Entity]
#[ORM\Table(name: 'pairing_rule')]
class PairingRuleRecord
{
    use Stored;

    #[ORM\Column]
    public bool $switchedOn = false;

    #[ORM\Column]
    public bool $retired = false;

    #[ORM\Version, ORM\Column(type: 'integer', options: ['default' => 1])]
    public int $version = 1;

    /** @param array<string, mixed> $clauses see Clauses */
    public function __construct(
        #[ORM\Column] public readonly int $setId,
        #[ORM\Column] public int $place,
        #[ORM\Column(type: 'json')] public array $clauses,
    ) {
    }
}
