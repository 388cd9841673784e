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

    /** Empty until the person has set one: nobody signs in with it. */
    #[ORM\Column(length: 255)]
    public string $passwordHash = '';

    #[ORM\Column(options: ['default' => true])]
    public bool $singleKeys = true;

    #[ORM\Column(options: ['default' => false])]
    public bool $retired = false;

    #[ORM\Column(length: 190, options: ['default' => ''])]
    public string $email = '';

    /** The sealed secret of the second factor; null while the person has none. */
    #[ORM\Column(length: 190, nullable: true)]
    public ?string $secondFactor = null;

    /** The last time step whose code was taken: a code is good once. */
    #[ORM\Column(type: 'bigint', options: ['default' => 0])]
    public int $secondFactorStep = 0;

    /** @var Collection<int, Membership> */
    #[ORM\OneToMany(targetEntity: Membership::class, mappedBy: 'user', fetch: 'EAGER')]
    public Collection $memberships;

    /** @var array<int, list<Role>> by company: the roles of those whom the person stands in for today */
    public array $standsIn = [];

    public function __construct(
        #[ORM\Column(length: 60, options: ['collation' => 'utf8mb4_bin'])] public readonly string $username,
        #[ORM\Column(length: 120)] public string $name,
    ) {
        $this->memberships = new ArrayCollection();
    }

    public function maySignIn(): bool
    {
        return !$this->retired && '' !== $this->passwordHash;
    }

    /** @return list<Role> own ones, and those of whom the person stands in for */
    public function rolesIn(Company $company): array
    {
        $roles = [];
        foreach ($this->memberships as $membership) {
            if ($membership->company->id === $company->id) {
                $roles[$membership->role->value] = $membership->role;
            }
        }
        foreach ($this->standsIn[$company->id()] ?? [] as $role) {
            $roles[$role->value] = $role;
        }

        return array_values($roles);
    }

    public function company(string $code): ?Company
    {
        foreach ($this->memberships as $membership) {
            if (0 === strcasecmp($membership->company->code, $code)) {
                return $membership->company;
            }
        }

        return null;
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

    /** @return array{id: ?int, username: string, passwordHash: string} what a session keeps: no hash that could be tried out */
    public function __serialize(): array
    {
        return [
            'id' => $this->id,
            'username' => $this->username,
            'passwordHash' => hash('crc32c', $this->passwordHash),
        ];
    }

    /** @param array{id: ?int, username: string, passwordHash: string} $data */
    public function __unserialize(array $data): void
    {
        ['id' => $this->id, 'username' => $this->username, 'passwordHash' => $this->passwordHash] = $data;
        $this->name = '';
        $this->memberships = new ArrayCollection();
    }
}
