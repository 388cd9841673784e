<?php

declare(strict_types=1);

namespace Nelbix\App\Books;

use Doctrine\ORM\Mapping as ORM;
use Nelbix\App\Platform\Stored;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Ledger\DocumentKind;
use Nelbix\Core\Ledger\Side;

/** A document of either side, from draft to posted to reversed. What is posted does not change but for hold, approval and reversal. */
#[ORM\Entity]
#[ORM\Table(name: 'document')]
class Document
{
    use Stored;

    public const MATCH = 'match';

    #[ORM\Column(length: 30, nullable: true)]
    public ?string $number = null;

    /** The number while the document stands; a reversed one frees it to be entered again. */
    #[ORM\Column(length: 30, nullable: true)]
    public ?string $liveNumber = null;

    #[ORM\Column(length: 60)]
    public string $theirNumber = '';

    #[ORM\Column(length: 60)]
    public string $theirKey = '';

    #[ORM\Column(length: 60, nullable: true)]
    public ?string $liveKey = null;

    #[ORM\Column(nullable: true)]
    public ?int $partyId = null;

    #[ORM\Column(type: 'day', nullable: true)]
    public ?Day $documentDate = null;

    #[ORM\Column(type: 'day', nullable: true)]
    public ?Day $postingDate = null;

    #[ORM\Column(type: 'day', nullable: true)]
    public ?Day $dueDate = null;

    #[ORM\Column(type: 'day', nullable: true)]
    public ?Day $startDate = null;

    #[ORM\Column(nullable: true)]
    public ?int $termId = null;

    #[ORM\Column(length: 3, options: ['fixed' => true])]
    public string $currency = '';

    #[ORM\Column(type: 'decimal', precision: 20, scale: 10)]
    public string $rate = '1';

    #[ORM\Column(type: 'bigint')]
    public int $net = 0;

    #[ORM\Column(type: 'bigint')]
    public int $tax = 0;

    #[ORM\Column(type: 'bigint')]
    public int $total = 0;

    #[ORM\Column(type: 'bigint')]
    public int $totalBase = 0;

    #[ORM\Column(type: 'bigint')]
    public int $discountBase = 0;

    #[ORM\Column(length: 255)]
    public string $description = '';

    #[ORM\Column(nullable: true)]
    public ?int $bankAccountId = null;

    #[ORM\Column(type: 'bigint')]
    public int $bankBase = 0;

    /** What moved at the bank, in its account's currency, where that is another than the document's; else 0. */
    #[ORM\Column(type: 'bigint', options: ['default' => 0])]
    public int $bankAmount = 0;

    /** Where a check or cash stands until a deposit slip takes it to the bank account; null when it went there at once. */
    #[ORM\Column(nullable: true)]
    public ?int $onHandAccountId = null;

    #[ORM\Column(length: 120)]
    public string $reference = '';

    #[ORM\Column(length: 10)]
    public string $method = '';

    #[ORM\Column(length: 255, nullable: true)]
    public ?string $heldReason = null;

    /** The person who holds it; null when it is not held by hand. */
    #[ORM\Column(nullable: true)]
    public ?int $heldById = null;

    /** Empty when a person holds it; MATCH when it does not fit its order, and only whoever ordered releases it. */
    #[ORM\Column(length: 10, options: ['default' => ''])]
    public string $heldFor = '';

    #[ORM\Column(length: 10, enumType: Approval::class)]
    public Approval $approval = Approval::None;

    #[ORM\Column(nullable: true)]
    public ?int $reversesId = null;

    #[ORM\Column(nullable: true)]
    public ?int $reversedById = null;

    /** How it was taken back, a word of HowTakenBack; '' while it stands. */
    #[ORM\Column(length: 30, options: ['default' => ''])]
    public string $takenBack = '';

    /** The document that this one puts right. */
    #[ORM\Column(nullable: true)]
    public ?int $replacesId = null;

    #[ORM\Column(length: 80, options: ['default' => ''])]
    public string $salesperson = '';

    #[ORM\Column(type: 'decimal', precision: 7, scale: 4, nullable: true)]
    public ?string $commissionPercent = null;

    /** The invoice that a credit note was given for. */
    #[ORM\Column(nullable: true)]
    public ?int $againstId = null;

    /** @var list<string>|null which of the fields that are worked out were typed: number, due_date, rate, tax.CODE */
    #[ORM\Column(type: 'json', nullable: true)]
    public ?array $typed = null;

    /** Why it is not the one it looks like. */
    #[ORM\Column(length: 255, options: ['default' => ''])]
    public string $lookAlikeReason = '';

    #[ORM\Column(nullable: true)]
    public ?int $batchId = null;

    /** The batch of receipts that it was entered with. */
    #[ORM\Column(nullable: true)]
    public ?int $receiptBatchId = null;

    #[ORM\Column(nullable: true)]
    public ?int $recurringId = null;

    #[ORM\Column(type: 'day', nullable: true)]
    public ?Day $recurringOn = null;

    #[ORM\Column(nullable: true)]
    public ?int $proposalId = null;

    /** @var array<mixed>|null the form of a draft as it was typed */
    #[ORM\Column(type: 'json', nullable: true)]
    public ?array $draftInput = null;

    #[ORM\Column(nullable: true)]
    public ?\DateTimeImmutable $postedAt = null;

    #[ORM\Version, ORM\Column(type: 'integer', options: ['default' => 1])]
    public int $version = 1;

    public function __construct(
        #[ORM\Column] public readonly int $companyId,
        #[ORM\Column(length: 12, enumType: Side::class)] public readonly Side $side,
        #[ORM\Column(length: 15, enumType: DocumentKind::class)] public readonly DocumentKind $kind,
        #[ORM\Column(length: 10, enumType: DocumentState::class)] public DocumentState $state,
        #[ORM\Column] public readonly int $createdById,
        #[ORM\Column] public \DateTimeImmutable $createdAt,
    ) {
    }
}
