<?php

declare(strict_types=1);

namespace Nelbix\App\Invoices;

use Doctrine\ORM\Mapping as ORM;
use Nelbix\App\Platform\Stored;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Calendar\Recurrence;
use Nelbix\Core\Ledger\Side;

/** A document that comes again and again; each time it is prepared as a draft. */
#[ORM\Entity]
#[ORM\Table(name: 'recurring')]
class Recurring
{
    use Stored;

    #[ORM\Column(type: 'smallint', options: ['default' => 0])]
    public int $made = 0;

    #[ORM\Column(options: ['default' => false])]
    public bool $stopped = false;

    #[ORM\Column(type: 'day', nullable: true)]
    public ?Day $nextOn;

    /** @param array<mixed> $form what the invoice form holds, without number and dates */
    public function __construct(
        #[ORM\Column] public readonly int $companyId,
        #[ORM\Column(length: 12, enumType: Side::class)] public readonly Side $side,
        #[ORM\Column(length: 80)] public readonly string $name,
        #[ORM\Column(type: 'json')] public readonly array $form,
        #[ORM\Column(length: 12)] public readonly string $every,
        #[ORM\Column(type: 'smallint')] public readonly int $weeks,
        #[ORM\Column(type: 'day')] public readonly Day $firstOn,
        #[ORM\Column(type: 'day', nullable: true)] public readonly ?Day $untilOn,
        #[ORM\Column(nullable: true, type: 'smallint')] public readonly ?int $most,
        #[ORM\Column] public readonly bool $askAmount,
        #[ORM\Column] public readonly int $createdById,
        #[ORM\Column] public \DateTimeImmutable $createdAt,
    ) {
        $this->nextOn = $firstOn;
    }

    public function schedule(): Recurrence
    {
        return new Recurrence($this->firstOn, $this->every, $this->weeks, $this->untilOn, $this->most);
    }
}
