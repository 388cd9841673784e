<?php

declare(strict_types=1);

namespace Nelbix\App\People;

use Doctrine\ORM\EntityManagerInterface;
use Nelbix\App\Platform\Actor;
use Nelbix\App\Platform\Company;
use Nelbix\Core\ProblemKind;
use Nelbix\Core\Refused;

/** Finds the people whom a controller may change: those who work in the company. */
final readonly class People
{
    public function __construct(private EntityManagerInterface $entities)
    {
    }

    /** @throws Refused for somebody who does not work there, and for the console's user, who is nobody */
    public function one(Actor $actor, int $userId): User
    {
        $user = $this->entities->find(User::class, $userId);
        if (null === $user || 'console' === $user->username || !$this->belongs($user, $actor->companyId)) {
            throw Refused::because('', 'There is no such person in this company.', ProblemKind::Unknown);
        }

        return $user;
    }

    /** @return list<Company> where the person works and the actor is no controller, who therefore cannot decide for them alone */
    public function elsewhere(Actor $actor, User $user): array
    {
        $mine = [];
        foreach ($this->entities->find(User::class, $actor->userId)->memberships ?? [] as $m) {
            if (Role::Controller === $m->role) {
                $mine[$m->company->id()] = true;
            }
        }
        $others = [];
        foreach ($user->memberships as $m) {
            if (!isset($mine[$m->company->id()])) {
                $others[$m->company->id()] = $m->company;
            }
        }

        return array_values($others);
    }

    private function belongs(User $user, int $companyId): bool
    {
        return $user->memberships->exists(static fn (int $k, Membership $m): bool => $m->company->id() === $companyId);
    }
}
