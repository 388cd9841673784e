<?php

declare(strict_types=1);

namespace Nelbix\App\People;

use Doctrine\ORM\EntityManagerInterface;
use Symfony\Component\PasswordHasher\Hasher\PasswordHasherFactoryInterface;
use Symfony\Component\Security\Core\Exception\UnsupportedUserException;
use Symfony\Component\Security\Core\Exception\UserNotFoundException;
use Symfony\Component\Security\Core\User\UserInterface;
use Symfony\Component\Security\Core\User\UserProviderInterface;

/**
 * The people who may sign in. An unknown name takes as long as a wrong password, and somebody who was retired is unknown from the next
 * request on.
 *
 * @implements UserProviderInterface<User>
 */
final readonly class Users implements UserProviderInterface
{
    public function __construct(
        private EntityManagerInterface $entities,
        private PasswordHasherFactoryInterface $hashers,
    ) {
    }

    public function loadUserByIdentifier(string $identifier): User
    {
        $user = $this->entities->getRepository(User::class)->findOneBy(['username' => $identifier]);
        if (null === $user || !$user->maySignIn()) {
            $this->hashers->getPasswordHasher(User::class)->hash('somebody who is not here');
            throw new UserNotFoundException();
        }

        return $user;
    }

    public function refreshUser(UserInterface $user): User
    {
        $fresh =
            $user instanceof User
                ? $this->entities->find(User::class, $user->id())
                : throw new UnsupportedUserException();
        if (null === $fresh || !$fresh->maySignIn()) {
            throw new UserNotFoundException();
        }

        return $fresh;
    }

    public function supportsClass(string $class): bool
    {
        return User::class === $class || is_subclass_of($class, User::class);
    }
}
