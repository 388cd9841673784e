<?php

declare(strict_types=1);

namespace Nelbix\App\People;

use Doctrine\Common\Collections\ArrayCollection;
use Doctrine\Common\Collections\Collection;
use Doctrine\ORM\Mapping as ORM;
use Nelbix\App\Platform\Company;
use Nelbix\App\Platform\Permission;
use Nelbix\App\Platform\Person;
use Nelbix\App\Platform\Stored;
use Symfony\Component\Security\Core\User\PasswordAuthenticatedUserInterface;

#[ORM\Entity]
#[ORM\Table(name: 'app_user')]
class User implements Person, PasswordAuthenticatedUserInterface
{
    use Stored;

    #[ORM\Column(length: 255)]
    public string $passwordHash = '';

    #[ORM\Column(options: ['default' => true])]
    public bool $singleKeys = true;

    #[ORM\Column(options: ['default' => false])]
    public bool $retired = false;

    /** @var Collection<int, Membership> */
    #[ORM\OneToMany(targetEntity: Membership::class, mappedBy: 'user', fetch: 'EAGER')]
    public Collection $memberships;

    public function __construct(
        #[ORM\Column(length: 60)] public readonly string $username,
        #[ORM\Column(length: 120)] public string $name,
    ) {
        $this->memberships = new ArrayCollection();
    }

    /** @return list<Role> */
    public function rolesIn(Company $company): array
    {
        $roles = [];
        foreach ($this->memberships as $membership) {
            if ($membership->company->id === $company->id) {
                $roles[] = $membership->role;
            }
        }

        return $roles;
    }

    public function worksIn(Company $company): bool
    {
        return [] !== $this->rolesIn($company);
    }

    public function may(Permission $permission, Company $company): bool
    {
        foreach ($this->rolesIn($company) as $role) {
            $given = $role->permissions();
            if (
                \in_array($permission, $given, true)
                || (Permission::SeeSetup === $permission && \in_array(Permission::Control, $given, true))
            ) {
                return true;
            }
        }

        return false;
    }

    public function getRoles(): array
    {
        return ['ROLE_USER'];
    }

    public function eraseCredentials(): void
    {
    }

    public function getUserIdentifier(): string
    {
        return '' === $this->username ? throw new \LogicException('A person has a name.') : $this->username;
    }

    public function getPassword(): string
    {
        return $this->passwordHash;
    }
}
