<?php

declare(strict_types=1);

namespace Nelbix\App\People;

use Doctrine\ORM\Mapping as ORM;
use Nelbix\App\Platform\Company;
use Nelbix\App\Platform\Stored;

/** A user's role in a company. */
#[ORM\Entity]
#[ORM\Table(name: 'membership')]
class Membership
{
    use Stored;

    /** The most a person may approve, in base currency's minor units; null for any amount. */
    #[ORM\Column(type: 'bigint', nullable: true)]
    public ?int $approvalLimit = null;

    /** The controller's reason when the person has duties that are better kept apart. */
    #[ORM\Column(length: 255, options: ['default' => ''])]
    public string $dutiesReason = '';

    public function __construct(
        #[ORM\ManyToOne(inversedBy: 'memberships'), ORM\JoinColumn(nullable: false)] public readonly User $user,
        #[ORM\ManyToOne(fetch: 'EAGER'), ORM\JoinColumn(nullable: false)] public readonly Company $company,
        #[ORM\Column(length: 20, enumType: Role::class)] public readonly Role $role,
    ) {
    }
}
