<?php

declare(strict_types=1);

namespace Nelbix\App\Books;

use Doctrine\ORM\Mapping as ORM;
use Nelbix\App\Platform\Stored;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Ledger\DocumentKind;
use Nelbix\Core\Ledger\Side;
use Nelbix\Core\OpenItems\OpenItem;

/** An open item as it is kept. Only SettlementBook changes what is open. */
#[ORM\Entity]
#[ORM\Table(name: 'open_item')]
class OpenItemRecord
{
    use Stored;

    #[ORM\Column(type: 'day')]
    public Day $lastMovedOn;

    #[ORM\Column(nullable: true)]
    public ?int $reservedById = null;

    /** The number of what holds it, for whoever is refused. */
    #[ORM\Column(length: 30, nullable: true)]
    public ?string $reservedAs = null;

    #[ORM\Column(length: 34)]
    public string $number = '';

    #[ORM\Column]
    public readonly int $companyId;

    #[ORM\Column(length: 12, enumType: Side::class)]
    public readonly Side $side;

    #[ORM\Column]
    public readonly int $partyId;

    #[ORM\Column(length: 15, enumType: DocumentKind::class)]
    public readonly DocumentKind $kind;

    #[ORM\Column]
    public readonly int $accountId;

    #[ORM\Column(length: 3, options: ['fixed' => true])]
    public readonly string $currency;

    #[ORM\Column(type: 'bigint')]
    public readonly int $original;

    #[ORM\Column(type: 'bigint')]
    public readonly int $originalBase;

    #[ORM\Column(type: 'bigint')]
    public int $open;

    #[ORM\Column(type: 'bigint')]
    public int $openBase;

    #[ORM\Column(type: 'bigint')]
    public readonly int $discountBase;

    #[ORM\Column(type: 'smallint')]
    public readonly int $graceDays;

    #[ORM\Column(type: 'day')]
    public readonly Day $documentDate;

    #[ORM\Column(type: 'day')]
    public readonly Day $postingDate;

    #[ORM\Column(type: 'day')]
    public readonly Day $dueDate;

    public function __construct(
        #[ORM\ManyToOne, ORM\JoinColumn(nullable: false)] public readonly Document $document,
        #[ORM\Column(type: 'smallint')] public readonly int $part,
        ItemDraft $draft,
    ) {
        $posted = $document->postingDate ?? throw new \LogicException('A document is posted on a day.');
        $this->companyId = $document->companyId;
        $this->kind = $draft->kind ?? $document->kind;
        $this->currency = $document->currency;
        $this->side = $draft->side;
        $this->partyId = $draft->party;
        $this->accountId = $draft->account;
        $this->original = $this->open = $draft->amount;
        $this->originalBase = $this->openBase = $draft->base;
        $this->discountBase = $draft->discountBase;
        $this->graceDays = $draft->graceDays;
        $this->documentDate = $document->documentDate ?? $posted;
        $this->postingDate = $this->lastMovedOn = $posted;
        $this->dueDate = $draft->due;
    }

    /** @param Reservation|null $by null frees it */
    public function reserve(?Reservation $by): void
    {
        $this->reservedById = $by?->id;
        $this->reservedAs = $by?->number;
    }

    public function reservation(): ?Reservation
    {
        return null === $this->reservedById ? null : new Reservation($this->reservedById, (string) $this->reservedAs);
    }

    /** As the core knows it, without its discount. */
    public function item(): OpenItem
    {
        return new OpenItem(
            $this->id(),
            $this->side,
            $this->partyId,
            $this->kind,
            $this->number,
            $this->accountId,
            $this->currency,
            $this->original,
            $this->originalBase,
            $this->open,
            $this->openBase,
            $this->postingDate,
            $this->dueDate,
        );
    }
}
