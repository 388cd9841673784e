<?php

declare(strict_types=1);

namespace Nelbix\App\People;

use Doctrine\ORM\EntityManagerInterface;
use Nelbix\App\Platform\Actor;
use Nelbix\App\Platform\Company;
use Nelbix\App\Platform\Permission;
use Nelbix\Core\Refused;

/** Whether whoever acts may do a thing, whichever door they come through. */
final readonly class MayDo
{
    public function __construct(private EntityManagerInterface $entities)
    {
    }

    public function may(Actor $actor, Permission $permission): bool
    {
        $user = $this->entities->find(User::class, $actor->userId);
        $company = $this->entities->find(Company::class, $actor->companyId);

        return null !== $user && null !== $company && $user->may($permission, $company);
    }

    /**
     * @param string $said what a person is told who may not
     *
     * @throws Refused
     */
    public function must(Actor $actor, Permission $permission, string $said, string $field = ''): void
    {
        if (!$this->may($actor, $permission)) {
            throw Refused::because($field, $said);
        }
    }
}
