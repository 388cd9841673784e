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

    /** How often it was prepared. */
    #[ORM\Column(type: 'smallint', options: ['default' => 0])]
    public int $made = 0;

    /** How often it had been prepared when it got the days that it has now. */
    #[ORM\Column(type: 'smallint', options: ['default' => 0])]
    public int $madeBefore = 0;

    #[ORM\Version]
    #[ORM\Column(type: 'integer', options: ['default' => 1])]
    public int $version = 1;

    #[ORM\Column(options: ['default' => false])]
    public bool $stopped = false;

    #[ORM\Column(type: 'day', nullable: true)]
    public ?Day $nextOn;

    /** @param array<mixed> $form what the invoice form holds, without number and dates */
    public function __construct(
        #[ORM\Column] public readonly int $companyId,
        #[ORM\Column(length: 12, enumType: Side::class)] public readonly Side $side,
        #[ORM\Column(length: 80)] public string $name,
        #[ORM\Column(type: 'json')] public array $form,
        #[ORM\Column(length: 12)] public string $every,
        #[ORM\Column(type: 'smallint')] public int $weeks,
        #[ORM\Column(type: 'day')] public Day $firstOn,
        #[ORM\Column(type: 'day', nullable: true)] public ?Day $untilOn,
        #[ORM\Column(nullable: true, type: 'smallint')] public ?int $most,
        #[ORM\Column] public bool $askAmount,
        #[ORM\Column] public readonly int $createdById,
        #[ORM\Column] public \DateTimeImmutable $createdAt,
    ) {
        $this->nextOn = $this->next(1)[0] ?? null;
    }

    /** @return list<Day> the next days on which it comes, whether it is stopped or not */
    public function next(int $count): array
    {
        return $this->schedule()->next($this->made - $this->madeBefore, $count);
    }

    /** How many times it is still going to come; null without such an end. */
    public function timesLeft(): ?int
    {
        return null === $this->most ? null : max(0, $this->most - $this->made);
    }

    public function wasMade(): void
    {
        ++$this->made;
        $this->nextOn = $this->next(1)[0] ?? null;
    }

    /** From its next time on it comes on these days. */
    public function comes(Recurrence $days): void
    {
        $this->firstOn = $days->first;
        $this->every = $days->every;
        $this->weeks = $days->weeks;
        $this->untilOn = $days->until;
        $this->most = null === $days->most ? null : $days->most + $this->made;
        $this->madeBefore = $this->made;
        $this->nextOn = $this->next(1)[0] ?? null;
    }

    private function schedule(): Recurrence
    {
        $most = null === $this->most ? null : max(1, $this->most - $this->madeBefore);

        return new Recurrence($this->firstOn, $this->every, $this->weeks, $this->untilOn, $most);
    }
}
