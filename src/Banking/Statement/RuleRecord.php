<?php

declare(strict_types=1);

namespace Nelbix\App\Banking\Statement;

use Doctrine\ORM\Mapping as ORM;
use Nelbix\App\Platform\Stored;

/** A reading rule: when the text of a line has these words, what the line is. */
#[ORM\Entity]
#[ORM\Table(name: 'reading_rule')]
class RuleRecord
{
    use Stored;

    /** How often its line was placed as it says, and how often otherwise. */
    #[ORM\Column]
    public int $taken = 0;

    #[ORM\Column]
    public int $passedOver = 0;

    #[ORM\Column]
    public bool $retired = false;

    #[ORM\Version, ORM\Column(type: 'integer', options: ['default' => 1])]
    public int $version = 1;

    /**
     * @param string $words separated by commas; each may hold blanks
     * @param int $direction 1 in, -1 out, 0 both
     * @param int|null $least minor units, without sign
     * @param array<string, mixed> $parts {"party": code, "side": side} or {"accounts": [{account, percent, tax, cost_center, department,
     *                                    project}]}
     */
    public function __construct(
        #[ORM\Column] public readonly int $companyId,
        #[ORM\Column] public int $place,
        #[ORM\Column(length: 120)] public string $name,
        #[ORM\Column(length: 255)] public string $words,
        #[ORM\Column(type: 'smallint')] public int $direction,
        #[ORM\Column(type: 'json')] public array $parts,
        #[ORM\Column(nullable: true)] public ?int $bankAccountId = null,
        #[ORM\Column(type: 'bigint', nullable: true)] public ?int $least = null,
        #[ORM\Column(type: 'bigint', nullable: true)] public ?int $most = null,
    ) {
    }
}
