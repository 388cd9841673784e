<?php

declare(strict_types=1);

namespace Nelbix\App\People;

use Nelbix\Core\Refused;
use Symfony\Component\PasswordHasher\Hasher\UserPasswordHasherInterface;

/** Asks a person who is signed in for the present password; guesses are limited, as at the door. */
final readonly class PresentPassword
{
    private const MOST = 5;
    private const SECONDS = 300;

    public function __construct(private UserPasswordHasherInterface $hasher, private Attempts $attempts)
    {
    }

    /**
     * Call outside a transaction, so that a wrong one is counted.
     *
     * @throws Refused naming the field
     */
    public function mustBe(User $user, #[\SensitiveParameter] string $typed, string $field, string $wrong): void
    {
        $of = 'present password of '.$user->id();
        if (!$this->attempts->allows($of, self::MOST, self::SECONDS)) {
            throw Refused::because($field, 'Too many tries; wait five minutes and try again.');
        }
        if (!$this->hasher->isPasswordValid($user, $typed)) {
            throw Refused::because($field, $wrong);
        }
        $this->attempts->forget($of);
    }
}
