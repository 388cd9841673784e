<?php

declare(strict_types=1);

namespace Nelbix\App\Money;

use Doctrine\ORM\Mapping as ORM;
use Nelbix\App\Platform\Stored;
use Nelbix\Core\Calendar\Day;

/** One pile of receipts of a day and a bank account, and what it is to come to: the tape beside it, or the bank's own figures. */
#[ORM\Entity]
#[ORM\Table(name: 'receipt_batch')]
class ReceiptBatch
{
    use Stored;

    #[ORM\Column(nullable: true)]
    public ?\DateTimeImmutable $closedAt = null;

    /** Why it was closed though it does not come to what was said. */
    #[ORM\Column(length: 255, options: ['default' => ''])]
    public string $closedWhy = '';

    public function __construct(
        #[ORM\Column] public readonly int $companyId,
        #[ORM\Column(length: 80)] public readonly string $name,
        #[ORM\Column(type: 'day')] public readonly Day $postingDate,
        #[ORM\Column] public readonly int $bankAccountId,
        #[ORM\Column(nullable: true)] public readonly ?int $controlCount,
        #[ORM\Column(type: 'bigint', nullable: true)] public readonly ?int $controlTotal,
        #[ORM\Column] public readonly int $createdById,
        #[ORM\Column] public \DateTimeImmutable $createdAt,
    ) {
    }
}
