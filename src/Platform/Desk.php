<?php

declare(strict_types=1);

namespace Nelbix\App\Platform;

use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Ledger\Side;

/** The company and the person of this request, as the gate let them in. Controllers take it as an argument. */
final readonly class Desk
{
    public function __construct(public Company $company, public Person $user, public Actor $actor, public Day $today)
    {
    }

    public function id(): int
    {
        return $this->actor->companyId;
    }

    public function may(Permission $permission): bool
    {
        return $this->user->may($permission, $this->company);
    }

    public function sees(Side $side): bool
    {
        return $this->may(Permission::see($side));
    }

    /** @return list<Side> that may be seen */
    public function sides(): array
    {
        return array_values(array_filter(Side::cases(), fn (Side $s): bool => $this->sees($s)));
    }

    public function enters(Side $side): bool
    {
        return $this->may(Permission::enter($side));
    }
}
