<?php

declare(strict_types=1);

namespace Nelbix\App\Pairing;

use Doctrine\ORM\Mapping as ORM;
use Nelbix\App\Platform\Stored;
use Nelbix\Core\Calendar\Day;

/** A row of a source, as it was when the set was last run. */
#[ORM\Entity]
#[ORM\Table(name: 'pairing_row')]
class PairingRowRecord
{
    use Stored;

    #[ORM\Column(nullable: true)]
    public ?int $pairId = null;

    #[ORM\Column]
    public bool $tied = false;

    /** The source has it no more; it stands there because it is paired. */
    #[ORM\Column]
    public bool $gone = false;

    /**
     * @param string $source by which the source knows it
     * @param int $amount as the source has it, its sign not turned; minor units of the set's currency
     * @param int|null $base the same in the company's base currency, where it has one
     * @param array<string, string> $fields
     */
    public function __construct(
        #[ORM\Column] public readonly int $setId,
        #[ORM\Column(length: 5)] public readonly string $side,
        #[ORM\Column(length: 40)] public readonly string $source,
        #[ORM\Column(length: 60)] public readonly string $number,
        #[ORM\Column(type: 'bigint')] public readonly int $amount,
        #[ORM\Column(type: 'bigint', nullable: true)] public readonly ?int $base,
        #[ORM\Column(type: 'day')] public readonly Day $dated,
        #[ORM\Column(type: 'json')] public readonly array $fields,
        #[ORM\Column(nullable: true)] public readonly ?int $documentId = null,
    ) {
    }
}
