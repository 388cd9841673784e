<?php

declare(strict_types=1);

namespace Nelbix\App\Work;

use Doctrine\ORM\Mapping as ORM;
use Nelbix\App\Platform\Stored;

/** Long work that somebody started: what, on which record, and how far it is. */
#[ORM\Entity]
#[ORM\Table(name: 'job')]
class Job
{
    use Stored;

    #[ORM\Column(length: 10, enumType: JobState::class)]
    public JobState $state = JobState::Waiting;

    /** How many of the total stand in the books. */
    #[ORM\Column(options: ['default' => 0])]
    public int $done = 0;

    /** What it was asked besides its record. */
    #[ORM\Column(length: 60, options: ['default' => ''])]
    public string $options = '';

    /** @var array<string, mixed>|null what came of it */
    #[ORM\Column(type: 'json', nullable: true)]
    public ?array $result = null;

    /** How it ended, in words. */
    #[ORM\Column(length: 1000, options: ['default' => ''])]
    public string $said = '';

    /** Unique while the job is under way: a record has one at a time. */
    #[ORM\Column(length: 40, unique: true, nullable: true)]
    public ?string $standing;

    #[ORM\Column(nullable: true)]
    public ?\DateTimeImmutable $endedAt = null;

    /** The worker that has it for now. */
    #[ORM\Column(length: 60, nullable: true)]
    public ?string $owner = null;

    #[ORM\Column(nullable: true)]
    public ?\DateTimeImmutable $ownedUntil = null;

    #[ORM\Version, ORM\Column(type: 'integer', options: ['default' => 1])]
    public int $version = 1;

    public function __construct(
        #[ORM\Column] public readonly int $companyId,
        #[ORM\Column] public readonly int $userId,
        #[ORM\Column(length: 20)] public readonly string $kind,
        #[ORM\Column] public readonly int $subjectId,
        #[ORM\Column(length: 120)] public readonly string $title,
        #[ORM\Column] public int $total,
        #[ORM\Column] public \DateTimeImmutable $createdAt,
    ) {
        $this->standing = $kind.':'.$subjectId;
    }

    public function end(JobState $state, string $said, \DateTimeImmutable $at): void
    {
        $this->state = $state;
        $this->said = mb_substr($said, 0, 1000);
        $this->endedAt = $at;
        $this->owner = $this->ownedUntil = null;
        $this->standing = null;
    }
}
