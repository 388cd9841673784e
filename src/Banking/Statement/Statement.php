<?php

declare(strict_types=1);

namespace Nelbix\App\Banking\Statement;

use Doctrine\ORM\Mapping as ORM;
use Nelbix\App\Platform\Stored;
use Nelbix\Core\Calendar\Day;

/** A statement of a bank account over a span of days, as it was taken in. Amounts in minor units of the account's currency. */
#[ORM\Entity]
#[ORM\Table(name: 'bank_statement')]
class Statement
{
    use Stored;

    #[ORM\Column(nullable: true)]
    public ?int $fileId = null;

    /**
     * @param string $number as the bank counts
     * @param string $digest SHA-256 of the file, or of what was typed
     * @param int $gap opening less what the statement before closed with; 0 when it follows
     */
    public function __construct(
        #[ORM\Column] public readonly int $companyId,
        #[ORM\Column] public readonly int $bankAccountId,
        #[ORM\Column(length: 60)] public readonly string $number,
        #[ORM\Column(length: 10)] public readonly string $format,
        #[ORM\Column(length: 64, options: ['fixed' => true])] public readonly string $digest,
        #[ORM\Column(type: 'day')] public readonly Day $fromDay,
        #[ORM\Column(type: 'day')] public readonly Day $toDay,
        #[ORM\Column(type: 'bigint')] public readonly int $opening,
        #[ORM\Column(type: 'bigint')] public readonly int $closing,
        #[ORM\Column(type: 'bigint')] public readonly int $gap,
        #[ORM\Column] public readonly int $takenById,
        #[ORM\Column] public \DateTimeImmutable $takenAt,
    ) {
    }
}
