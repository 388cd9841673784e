<?php

declare(strict_types=1);

namespace Nelbix\App\Payables;

use Doctrine\ORM\Mapping as ORM;
use Nelbix\App\Platform\Stored;

/** Named criteria of a payment proposal, kept for next time; the dates as days from the pay date. */
#[ORM\Entity]
#[ORM\Table(name: 'pay_habit')]
class PayHabit
{
    use Stored;

    /** @param array<string, string> $criteria of the form; due_days and again_days stand for its dates */
    public function __construct(
        #[ORM\Column] public readonly int $companyId,
        #[ORM\Column(length: 60)] public string $name,
        #[ORM\Column(type: 'json')] public array $criteria,
        #[ORM\Column] public bool $shared,
        #[ORM\Column] public readonly int $createdById,
    ) {
    }
}
