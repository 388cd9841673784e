<?php

declare(strict_types=1);

namespace Nelbix\App\Parties;

use Doctrine\ORM\Mapping as ORM;
use Nelbix\App\Platform\Stored;
use Nelbix\Core\Ledger\Side;
use Nelbix\Core\Proposal\IfPaidLate;

/** A vendor or a customer: one record a side, linked when they are one business. */
#[ORM\Entity]
#[ORM\Table(name: 'party')]
class Party
{
    use Stored;

    /** How it is paid, by itself. */
    public const METHODS = ['check' => 'check', 'transfer' => 'transfer', 'card' => 'card'];

    #[ORM\Column(length: 3, nullable: true, options: ['fixed' => true])]
    public ?string $currency = null;

    #[ORM\Column(nullable: true)]
    public ?int $termId = null;

    #[ORM\Column(nullable: true)]
    public ?int $defaultAccountId = null;

    #[ORM\Column(nullable: true)]
    public ?int $linkedPartyId = null;

    #[ORM\Column(length: 10)]
    public string $method = 'check';

    #[ORM\Column(length: 12, enumType: IfPaidLate::class)]
    public IfPaidLate $ifLate = IfPaidLate::CanWait;

    #[ORM\Column]
    public bool $separatePayments = false;

    #[ORM\Column(nullable: true)]
    public ?int $defaultTaxCodeId = null;

    #[ORM\Column(nullable: true)]
    public ?int $costCenterId = null;

    #[ORM\Column(nullable: true)]
    public ?int $departmentId = null;

    #[ORM\Column(nullable: true)]
    public ?int $projectId = null;

    #[ORM\Column(length: 80, options: ['default' => ''])]
    public string $salesperson = '';

    #[ORM\Column(type: 'decimal', precision: 7, scale: 4, nullable: true)]
    public ?string $commissionPercent = null;

    #[ORM\Column(length: 40)]
    public string $taxNumber = '';

    #[ORM\Column(length: 160)]
    public string $street = '';

    #[ORM\Column(length: 120)]
    public string $city = '';

    #[ORM\Column(length: 60)]
    public string $country = '';

    #[ORM\Column(length: 160)]
    public string $email = '';

    #[ORM\Column(type: 'bigint', nullable: true)]
    public ?int $creditLimit = null;

    #[ORM\Column(length: 40)]
    public string $iban = '';

    #[ORM\Column(length: 15)]
    public string $bic = '';

    #[ORM\Column(length: 20)]
    public string $routingNumber = '';

    #[ORM\Column(length: 40)]
    public string $accountNumber = '';

    #[ORM\Column(nullable: true)]
    public ?int $bankChangedById = null;

    /** The account before a change that waits for a second person, in words. */
    #[ORM\Column(length: 160, options: ['default' => ''])]
    public string $bankBefore = '';

    /** Routing and account number that a prenote tested. */
    #[ORM\Column(length: 60, options: ['default' => ''])]
    public string $prenoted = '';

    #[ORM\Column]
    public bool $bankConfirmed = true;

    #[ORM\Column(options: ['default' => false])]
    public bool $retired = false;

    /** It stands for payers that are not known yet: unidentified receipts are its items, nothing else. */
    #[ORM\Column(options: ['default' => false])]
    public bool $nobody = false;

    /** What is withheld for the tax office at payment; null for nothing. */
    #[ORM\Column(type: 'decimal', precision: 7, scale: 4, nullable: true)]
    public ?string $withholdingPercent = null;

    /** A group that the company puts it into, in its own words. */
    #[ORM\Column(length: 30, options: ['default' => ''])]
    public string $partyGroup = '';

    #[ORM\Column(nullable: true)]
    public ?int $controlAccountId = null;

    #[ORM\Column(nullable: true)]
    public ?int $prepaymentAccountId = null;

    /** A key of PartyProfile::STATEMENTS. */
    #[ORM\Column(length: 10, options: ['default' => 'none'])]
    public string $statement = 'none';

    /** What goes out to it is in this language, a key of Letters::LANGUAGES. */
    #[ORM\Column(length: 2, options: ['default' => 'en'])]
    public string $language = 'en';

    #[ORM\Column(nullable: true)]
    public ?int $reminderLadderId = null;

    /** Yearly percent of finance charges; null for none. */
    #[ORM\Column(type: 'decimal', precision: 7, scale: 4, nullable: true)]
    public ?string $chargeRate = null;

    #[ORM\Column(type: 'smallint', options: ['default' => 0])]
    public int $chargeGraceDays = 0;

    #[ORM\Column(type: 'bigint', options: ['default' => 0])]
    public int $chargeSmallest = 0;

    #[ORM\Column(options: ['default' => false])]
    public bool $chargeOnCharges = false;

    /** What its deliveries and invoices may differ by from what was agreed; null as the company has it. */
    #[ORM\Column(type: 'decimal', precision: 17, scale: 6, nullable: true)]
    public ?string $matchPricePercent = null;

    #[ORM\Column(type: 'decimal', precision: 17, scale: 6, nullable: true)]
    public ?string $matchPriceAmount = null;

    #[ORM\Column(type: 'decimal', precision: 17, scale: 6, nullable: true)]
    public ?string $matchQuantityPercent = null;

    #[ORM\Column(type: 'decimal', precision: 17, scale: 6, nullable: true)]
    public ?string $matchQuantityUnits = null;

    #[ORM\Column(type: 'decimal', precision: 17, scale: 6, nullable: true)]
    public ?string $matchTotal = null;

    #[ORM\Column(nullable: true)]
    public ?\DateTimeImmutable $lastUsedAt = null;

    #[ORM\Version, ORM\Column(type: 'integer', options: ['default' => 1])]
    public int $version = 1;

    public function __construct(
        #[ORM\Column] public readonly int $companyId,
        #[ORM\Column(length: 12, enumType: Side::class)] public readonly Side $side,
        #[ORM\Column(length: 20)] public readonly string $code,
        #[ORM\Column(length: 120)] public string $name,
    ) {
    }

    public function hasBankDetails(): bool
    {
        return '' !== $this->iban || ('' !== $this->routingNumber && '' !== $this->accountNumber);
    }
}
