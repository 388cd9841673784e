<?php

declare(strict_types=1);

namespace Nelbix\App\Bank;

use Doctrine\ORM\Mapping as ORM;
use Nelbix\App\Platform\Stored;
use Nelbix\Core\Calendar\Day;

/** A number of a check book and what became of it. */
#[ORM\Entity]
#[ORM\Table(name: 'bank_check')]
class BankCheck
{
    use Stored;

    #[ORM\Column(nullable: true)]
    public ?int $proposalId = null;

    #[ORM\Column(nullable: true)]
    public ?int $payment = null;

    #[ORM\Column(nullable: true)]
    public ?int $partyId = null;

    #[ORM\Column(nullable: true)]
    public ?int $documentId = null;

    #[ORM\Column(type: 'bigint')]
    public int $amount = 0;

    #[ORM\Column(type: 'day', nullable: true)]
    public ?Day $checkDate = null;

    #[ORM\Column(length: 255)]
    public string $reason = '';

    /** Name and address as they stand on it, a line each, of a check printed without a proposal; a proposal keeps its own. */
    #[ORM\Column(length: 700, nullable: true)]
    public ?string $payee = null;

    public function __construct(
        #[ORM\Column] public readonly int $checkBookId,
        #[ORM\Column(type: 'bigint')] public readonly int $number,
        #[ORM\Column(length: 10, enumType: CheckState::class)] public CheckState $state,
    ) {
    }
}
