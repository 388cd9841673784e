<?php

declare(strict_types=1);

namespace Nelbix\App\Platform;

use Symfony\Component\Security\Core\User\UserInterface;

/** Somebody who is signed in, as far as the gate must know: where they work and what they may do there. */
interface Person extends UserInterface
{
    public function id(): int;

    /** The company with this code, if the person works in it. */
    public function company(string $code): ?Company;

    public function worksIn(Company $company): bool;

    public function may(Permission $permission, Company $company): bool;
}
