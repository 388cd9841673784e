<?php

declare(strict_types=1);

namespace Nelbix\App\Banking;

use Doctrine\ORM\Mapping as ORM;
use Nelbix\App\Platform\Stored;
use Nelbix\Core\Calendar\Day;

/** A customer's word, signed, that we may collect what it owes from its account. It never changes: a new account is a new mandate. */
#[ORM\Entity]
#[ORM\Table(name: 'mandate')]
class Mandate
{
    use Stored;

    public const SCHEMES = ['CORE' => 'core', 'B2B' => 'between businesses'];

    #[ORM\Column(type: 'day', nullable: true)]
    public ?Day $endedOn = null;

    #[ORM\Column(length: 255, options: ['default' => ''])]
    public string $endedWhy = '';

    public function __construct(
        #[ORM\Column] public readonly int $companyId,
        #[ORM\Column] public readonly int $partyId,
        #[ORM\Column(length: 35)] public readonly string $reference,
        #[ORM\Column(type: 'day')] public readonly Day $signedOn,
        #[ORM\Column(length: 4)] public readonly string $scheme,
        #[ORM\Column(options: ['default' => false])] public readonly bool $once,
        #[ORM\Column(length: 34)] public readonly string $iban,
        #[ORM\Column(length: 11, options: ['default' => ''])] public readonly string $bic,
        #[ORM\Column] public readonly int $createdById,
        #[ORM\Column] public \DateTimeImmutable $createdAt,
    ) {
    }
}
