<?php

declare(strict_types=1);

namespace Nelbix\App\People;

use Symfony\Component\Security\Core\Exception\CustomUserMessageAccountStatusException;
use Symfony\Component\Security\Core\User\UserCheckerInterface;
use Symfony\Component\Security\Core\User\UserInterface;

/** Retired users cannot sign in, and neither can the console's user, which has no password. */
final class ActiveUsersOnly implements UserCheckerInterface
{
    public function checkPreAuth(UserInterface $user): void
    {
        if ($user instanceof User && ($user->retired || '' === $user->passwordHash)) {
            throw new CustomUserMessageAccountStatusException('This user cannot sign in; ask a controller.');
        }
    }

    public function checkPostAuth(UserInterface $user): void
    {
    }
}
