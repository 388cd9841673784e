<?php

declare(strict_types=1);

namespace Nelbix\App\Banking;

use Doctrine\ORM\Mapping as ORM;
use Nelbix\App\Platform\Stored;
use Nelbix\Core\Calendar\Day;

/** A file of payments for a bank, kept as it was made. */
#[ORM\Entity]
#[ORM\Table(name: 'bank_file')]
class BankFile
{
    use Stored;

    #[ORM\Column(nullable: true)]
    public ?\DateTimeImmutable $sentAt = null;

    #[ORM\Column(nullable: true)]
    public ?int $sentById = null;

    #[ORM\Column(nullable: true)]
    public ?\DateTimeImmutable $withdrawnAt = null;

    #[ORM\Column(nullable: true)]
    public ?int $withdrawnById = null;

    /** What the bank answered, as it came. */
    #[ORM\Column(type: 'text', nullable: true)]
    public ?string $answer = null;

    public function __construct(
        #[ORM\Column] public readonly int $companyId,
        #[ORM\Column] public readonly int $bankAccountId,
        #[ORM\Column(nullable: true)] public readonly ?int $proposalId,
        #[ORM\Column(length: 30)] public readonly string $number,
        #[ORM\Column(length: 10, enumType: FileFormat::class)] public readonly FileFormat $format,
        #[ORM\Column(type: 'day')] public readonly Day $payDate,
        #[ORM\Column] public readonly int $payments,
        #[ORM\Column(type: 'bigint')] public readonly int $amount,
        #[ORM\Column(type: 'bytes')] public readonly string $content,
        #[ORM\Column(length: 64, options: ['fixed' => true])] public readonly string $digest,
        #[ORM\Column] public readonly int $createdById,
        #[ORM\Column] public \DateTimeImmutable $createdAt,
    ) {
    }
}
