<?php

declare(strict_types=1);

namespace Nelbix\App\Parties;

use Doctrine\ORM\Mapping as ORM;
use Nelbix\App\Platform\Stored;

/** The rungs of reminders a customer climbs: days past due at which each is sent. */
#[ORM\Entity]
#[ORM\Table(name: 'reminder_ladder')]
class ReminderLadder
{
    use Stored;

    #[ORM\Column(options: ['default' => false])]
    public bool $retired = false;

    /** @param string $rungs days past due, rising, such as "7 21 45" */
    public function __construct(
        #[ORM\Column] public readonly int $companyId,
        #[ORM\Column(length: 20)] public readonly string $code,
        #[ORM\Column(length: 120)] public string $name,
        #[ORM\Column(length: 60)] public string $rungs,
    ) {
    }

    /** What a reminder of each rung costs the customer, in base currency, such as "0 10.00 25.00"; '' for nothing. */
    #[ORM\Column(length: 160, options: ['default' => ''])]
    public string $fees = '';

    /** What a reminder of each rung says, one after the other with | between them; '' for Nelbix's own words. */
    #[ORM\Column(length: 2000, options: ['default' => ''])]
    public string $texts = '';
}
