<?php

declare(strict_types=1);

namespace Nelbix\App\People;

use Nelbix\Core\Refused;

/** What a password must be: long, and not what stands beside it. Source: OWASP ASVS 4.0, 2.1.1, 2.1.2, 2.1.7, 2.1.9. */
final class PasswordRule
{
    private const LEAST = 12;
    private const MOST = 128;

    /** Beginnings of what is tried first, wherever passwords were lost; from memory. */
    private const COMMON = [
        'password',
        'passw0rd',
        'qwerty',
        'qwertz',
        'azerty',
        '123456',
        '12345678',
        'abc123',
        'letmein',
        'welcome',
        'iloveyou',
        'admin',
        'secret',
        'monkey',
        'dragon',
        'football',
        'baseball',
        'sunshine',
        'princess',
        'nelbix',
    ];

    /** @throws Refused naming "password" or "again" */
    public static function check(
        #[\SensitiveParameter] string $password,
        #[\SensitiveParameter] string $again,
        User $user,
    ): void {
        $length = mb_strlen($password);
        if ($length < self::LEAST || $length > self::MOST) {
            throw Refused::because(
                'password',
                \sprintf(
                    'A password has %d to %d characters; a few words are easy to keep in mind.',
                    self::LEAST,
                    self::MOST,
                ),
            );
        }
        $plain = mb_strtolower($password);
        foreach (
            array_filter(
                [$user->username, ...explode(' ', $user->name)],
                static fn (string $w): bool => mb_strlen($w) > 2,
            ) as $own
        ) {
            if (str_contains($plain, mb_strtolower($own))) {
                throw Refused::because('password', 'Your own name is the first thing that is tried; leave it out.');
            }
        }
        $rest = str_replace(self::COMMON, '', $plain);
        if (mb_strlen($rest) < self::LEAST - 6 || \count(array_unique(mb_str_split($plain))) < 5) {
            throw Refused::because('password', 'This is one of the passwords that are tried first; choose another.');
        }
        if ($password !== $again) {
            throw Refused::because('again', 'The two do not agree; type the password once more.');
        }
    }
}
