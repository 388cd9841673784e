<?php

declare(strict_types=1);

namespace Nelbix\App\Pairing;

use Doctrine\ORM\Mapping as ORM;
use Nelbix\App\Platform\Stored;

/** One time that the rules of a set were run. Its state is running, stopping, stopped, done or undone. */
#[ORM\Entity]
#[ORM\Table(name: 'pairing_run')]
class PairingRun
{
    use Stored;

    #[ORM\Column(length: 10)]
    public string $state = 'running';

    /** How many steps are done: the rows are read, then a step for each rule. */
    #[ORM\Column]
    public int $step = 0;

    /** @var array<string, int> pairs by rule, and what is over */
    #[ORM\Column(type: 'json')]
    public array $counts = [];

    #[ORM\Column(nullable: true)]
    public ?\DateTimeImmutable $endedAt = null;

    public function __construct(
        #[ORM\Column] public readonly int $setId,
        #[ORM\Column] public readonly int $companyId,
        #[ORM\Column] public readonly int $startedById,
        #[ORM\Column] public \DateTimeImmutable $startedAt,
    ) {
    }
}
