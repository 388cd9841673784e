<?php

declare(strict_types=1);

namespace Nelbix\App\Bank;

use Doctrine\ORM\Mapping as ORM;
use Nelbix\App\Platform\Stored;
use Nelbix\Core\Calendar\Day;

/** Checks and cash that went to the bank together: one line of its account. Amounts in minor units of the account's currency. */
#[ORM\Entity]
#[ORM\Table(name: 'deposit_slip')]
class DepositSlip
{
    use Stored;

    /** Given last before the commit. */
    #[ORM\Column(length: 30, nullable: true)]
    public ?string $number = null;

    #[ORM\Column(type: 'day', nullable: true)]
    public ?Day $reversedOn = null;

    #[ORM\Column(nullable: true)]
    public ?int $reversedById = null;

    #[ORM\Column(length: 255, options: ['default' => ''])]
    public string $reason = '';

    public function __construct(
        #[ORM\Column] public readonly int $companyId,
        #[ORM\Column] public readonly int $bankAccountId,
        #[ORM\Column] public readonly int $accountId,
        #[ORM\Column(type: 'day')] public readonly Day $depositedOn,
        #[ORM\Column(type: 'bigint')] public readonly int $amount,
        #[ORM\Column(type: 'bigint')] public readonly int $amountBase,
        #[ORM\Column] public readonly int $createdById,
        #[ORM\Column] public \DateTimeImmutable $createdAt,
    ) {
    }
}
