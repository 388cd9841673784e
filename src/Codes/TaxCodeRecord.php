<?php

declare(strict_types=1);

namespace Nelbix\App\Codes;

use Brick\Math\BigDecimal;
use Doctrine\ORM\Mapping as ORM;
use Nelbix\App\Platform\Stored;
use Nelbix\Core\Tax\TaxCode;

/** A tax code as it is kept. */
#[ORM\Entity]
#[ORM\Table(name: 'tax_code')]
class TaxCodeRecord
{
    use Stored;

    #[ORM\Column(options: ['default' => false])]
    public bool $retired = false;

    /** It is owed of a customer's prepayment when the money comes, and given back as that is placed. */
    #[ORM\Column(options: ['default' => false])]
    public bool $taxesPrepayments = false;

    /** What is written off of an invoice takes its tax back. */
    #[ORM\Column(options: ['default' => false])]
    public bool $badDebtCorrectsTax = false;

    public function __construct(
        #[ORM\Column] public readonly int $companyId,
        #[ORM\Column(length: 20)] public readonly string $code,
        #[ORM\Column(length: 160)] public string $text,
        #[ORM\Column(type: 'decimal', precision: 9, scale: 6)] public string $rate,
        #[ORM\Column] public int $accountId,
        #[ORM\Column(length: 10)] public string $usedBy,
        #[ORM\Column] public bool $inclusive = false,
        #[ORM\Column(type: 'decimal', precision: 9, scale: 6)] public string $recoverablePercent = '100',
        #[ORM\Column(nullable: true)] public ?int $reverseAccountId = null,
        #[ORM\Column] public bool $discountCorrectsTax = false,
    ) {
    }

    public function rule(): TaxCode
    {
        return new TaxCode(
            $this->code,
            BigDecimal::of($this->rate),
            $this->inclusive,
            BigDecimal::of($this->recoverablePercent),
            null !== $this->reverseAccountId,
            $this->discountCorrectsTax,
        );
    }
}
