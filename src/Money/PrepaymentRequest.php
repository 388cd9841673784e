<?php

declare(strict_types=1);

namespace Nelbix\App\Money;

use Doctrine\ORM\Mapping as ORM;
use Nelbix\App\Platform\Stored;
use Nelbix\Core\Calendar\Day;

/** What a customer is asked to pay before there is an invoice. It is in no books: only the money is, when it comes. */
#[ORM\Entity]
#[ORM\Table(name: 'prepayment_request')]
class PrepaymentRequest
{
    use Stored;

    /** Given last before the commit. */
    #[ORM\Column(length: 30, nullable: true)]
    public ?string $number = null;

    /** The money that came for it. */
    #[ORM\Column(nullable: true)]
    public ?int $documentId = null;

    #[ORM\Column(type: 'day', nullable: true)]
    public ?Day $withdrawnOn = null;

    #[ORM\Column(length: 255, options: ['default' => ''])]
    public string $withdrawnWhy = '';

    public function __construct(
        #[ORM\Column] public readonly int $companyId,
        #[ORM\Column] public readonly int $partyId,
        #[ORM\Column(type: 'day')] public readonly Day $askedOn,
        #[ORM\Column(type: 'day')] public readonly Day $payBy,
        #[ORM\Column(length: 3, options: ['fixed' => true])] public readonly string $currency,
        #[ORM\Column(type: 'bigint')] public readonly int $amount,
        #[ORM\Column(nullable: true)] public readonly ?int $taxCodeId,
        #[ORM\Column(length: 255)] public readonly string $text,
        #[ORM\Column] public readonly int $createdById,
        #[ORM\Column] public \DateTimeImmutable $createdAt,
    ) {
    }
}
