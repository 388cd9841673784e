<?php

declare(strict_types=1);

namespace Nelbix\App\Close\Journal;

use Doctrine\ORM\Mapping as ORM;
use Nelbix\App\Platform\Stored;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Calendar\Recurrence;

/** An entry by hand, from draft to posted; or one that comes again, from which drafts are made. */
#[ORM\Entity]
#[ORM\Table(name: 'manual_entry')]
class ManualEntry
{
    use Stored;

    #[ORM\Column(length: 10, enumType: ManualState::class)]
    public ManualState $state = ManualState::Draft;

    #[ORM\Column(type: 'day')]
    public Day $day;

    #[ORM\Column(length: 255)]
    public string $text = '';

    /** @var array<mixed> the form as it was typed */
    #[ORM\Column(type: 'json')]
    public array $form = [];

    /** What is debited, base minor units. */
    #[ORM\Column(type: 'bigint')]
    public int $amount = 0;

    #[ORM\Column]
    public bool $bypass = false;

    /** The words of whoever let it bypass its party ledger. */
    #[ORM\Column(length: 255)]
    public string $bypassWhy = '';

    #[ORM\Column(nullable: true)]
    public ?int $allowedById = null;

    #[ORM\Column(nullable: true)]
    public ?int $approvedById = null;

    /** Why it was sent back. */
    #[ORM\Column(length: 255)]
    public string $refusedWhy = '';

    #[ORM\Column(type: 'day', nullable: true)]
    public ?Day $reversesOn = null;

    #[ORM\Column(nullable: true)]
    public ?int $entryId = null;

    #[ORM\Column(length: 12)]
    public string $every = '';

    #[ORM\Column(type: 'smallint')]
    public int $weeks = 1;

    #[ORM\Column(type: 'day', nullable: true)]
    public ?Day $untilOn = null;

    #[ORM\Column(type: 'day', nullable: true)]
    public ?Day $nextOn = null;

    #[ORM\Column(type: 'smallint')]
    public int $made = 0;

    #[ORM\Column(nullable: true)]
    public ?int $recurringId = null;

    #[ORM\Column(type: 'day', nullable: true)]
    public ?Day $recurringOn = null;

    #[ORM\Version, ORM\Column(type: 'integer', options: ['default' => 1])]
    public int $version = 1;

    public function __construct(
        #[ORM\Column] public readonly int $companyId,
        #[ORM\Column] public readonly int $createdById,
        #[ORM\Column] public \DateTimeImmutable $createdAt,
    ) {
    }

    /** It comes again on the n-th day of its schedule, counted from 0; null when that is over. */
    public function nth(int $n): ?Day
    {
        return (new Recurrence($this->day, $this->every, $this->weeks, $this->untilOn))->nth($n);
    }

    public function wasMade(): void
    {
        $this->nextOn = $this->nth(++$this->made);
    }
}
