<?php

declare(strict_types=1);

namespace Nelbix\App\People;

use Doctrine\DBAL\Connection;
use Doctrine\DBAL\Exception\UniqueConstraintViolationException;
use Doctrine\ORM\EntityManagerInterface;
use Nelbix\App\Platform\Fields;
use Nelbix\App\Platform\RecordCheck;
use Nelbix\App\Platform\Transaction;
use Nelbix\Core\ProblemKind;
use Nelbix\Core\ProblemList;
use Nelbix\Core\Refused;
use Psr\Clock\ClockInterface;
use Symfony\Component\PasswordHasher\Hasher\UserPasswordHasherInterface;

/** Adds the first person of an installation, who may make its first company. Of two at once one is refused. */
final readonly class FirstPerson
{
    public function __construct(
        private Transaction $transaction,
        private Connection $db,
        private EntityManagerInterface $entities,
        private UserPasswordHasherInterface $hasher,
        private PersonalLinks $links,
        private ClockInterface $clock,
    ) {
    }

    /** Nobody is here yet who could sign in, or will with a link. */
    public function isAwaited(): bool
    {
        return false === $this->db->fetchOne("SELECT 1 FROM app_user WHERE username <> 'console' LIMIT 1");
    }

    /**
     * @param array<mixed> $raw name, username, password, again
     *
     * @throws Refused with every problem
     */
    public function withPassword(#[\SensitiveParameter] array $raw): User
    {
        return $this->add($raw, function (User $user) use ($raw): void {
            PasswordRule::check(self::untrimmed($raw, 'password'), self::untrimmed($raw, 'again'), $user);
            $user->passwordHash = $this->hasher->hashPassword($user, self::untrimmed($raw, 'password'));
        });
    }

    /**
     * @param array<mixed> $raw name, username, email
     *
     * @return string token of the link that sets the password
     *
     * @throws Refused with every problem
     */
    public function withLink(array $raw): string
    {
        return $this->transaction->run(fn (): string => $this->links->make($this->add($raw, static fn () => null)));
    }

    /**
     * @param array<mixed> $raw
     * @param callable(User): void $finish
     */
    private function add(array $raw, callable $finish): User
    {
        return $this->transaction->run(function () use ($raw, $finish): User {
            $text = (new Fields($raw))->text(...);
            $problems = new ProblemList();
            $problems->attempt(static fn () => RecordCheck::name($text('name'), 120));
            AddPerson::username($text('username'), $problems);
            AddPerson::email($text('email'), $problems);
            $user = new User($text('username'), $text('name'));
            $user->email = $text('email');
            $problems->attempt(static fn () => $finish($user));
            $problems->refuse();
            $this->beFirst();
            $this->entities->persist($user);
            $this->entities->flush();

            return $user;
        });
    }

    /** @throws Refused for all but one */
    private function beFirst(): void
    {
        $late = Refused::because(
            '',
            'Somebody was first; sign in, or ask a controller for a link.',
            ProblemKind::Taken,
        );
        if (!$this->isAwaited()) {
            throw $late;
        }
        try {
            $this->db->insert('installation', ['id' => 1, 'begun_at' => $this->clock->now()->format('Y-m-d H:i:s')]);
        } catch (UniqueConstraintViolationException) {
            throw $late;
        }
    }

    /** @param array<mixed> $raw */
    private static function untrimmed(#[\SensitiveParameter] array $raw, string $key): string
    {
        return \is_string($raw[$key] ?? null) ? $raw[$key] : '';
    }
}
