<?php

declare(strict_types=1);

namespace Nelbix\App\People;

use Nelbix\App\Platform\Transaction;
use Nelbix\Core\Refused;
use Symfony\Component\HttpFoundation\Request;
use Symfony\Component\PasswordHasher\Hasher\UserPasswordHasherInterface;

/** Sets a person's password: with their link, or with the one they had. Every other place where they are signed in is signed out. */
final readonly class SetPassword
{
    public function __construct(
        private Transaction $transaction,
        private UserPasswordHasherInterface $hasher,
        private PersonalLinks $links,
        private Presences $presences,
        private SignIns $signIns,
        private PresentPassword $present,
    ) {
    }

    /** @throws Refused when the link opens nothing any more, or naming password or again */
    public function byLink(
        #[\SensitiveParameter] string $token,
        #[\SensitiveParameter] string $password,
        #[\SensitiveParameter] string $again,
        ?Request $request,
    ): User {
        return $this->transaction->run(function () use ($token, $password, $again, $request): User {
            $user =
                $this->links->open($token, true) ??
                throw Refused::because('', 'This link was used or is older than a day; ask a controller for another.');
            $this->set($user, $password, $again, 0, $request);

            return $user;
        });
    }

    /** @throws Refused naming present, password or again */
    public function byPerson(
        User $user,
        #[\SensitiveParameter] string $present,
        #[\SensitiveParameter] string $password,
        #[\SensitiveParameter] string $again,
        int $presence,
        ?Request $request,
    ): void {
        $this->present->mustBe($user, $present, 'present', 'This is not your present password.');
        $this->transaction->run(function () use ($user, $password, $again, $presence, $request): void {
            $this->set($user, $password, $again, $presence, $request);
        });
    }

    private function set(
        User $user,
        #[\SensitiveParameter] string $password,
        #[\SensitiveParameter] string $again,
        int $presence,
        ?Request $request,
    ): void {
        PasswordRule::check($password, $again, $user);
        $user->passwordHash = $this->hasher->hashPassword($user, $password);
        $this->presences->endAll($user->id(), $presence);
        $this->signIns->note($user, 'password set', $request);
    }
}
