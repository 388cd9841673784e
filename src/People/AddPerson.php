<?php

declare(strict_types=1);

namespace Nelbix\App\People;

use Doctrine\DBAL\Exception\UniqueConstraintViolationException;
use Doctrine\ORM\EntityManagerInterface;
use Nelbix\App\Platform\Actor;
use Nelbix\App\Platform\Fields;
use Nelbix\App\Platform\RecordCheck;
use Nelbix\App\Platform\Transaction;
use Nelbix\Core\ProblemKind;
use Nelbix\Core\ProblemList;
use Nelbix\Core\Refused;

/** Adds a person to a company: somebody new, who gets a link to set a password, or somebody who works in another one already. */
final readonly class AddPerson
{
    public function __construct(
        private Transaction $transaction,
        private EntityManagerInterface $entities,
        private Duties $duties,
        private PersonalLinks $links,
    ) {
    }

    /**
     * @param array<mixed> $raw username, name, email, roles[], limit, reason
     *
     * @return array{id: int, token: ?string} token of the link; none for somebody who has a password
     *
     * @throws Refused with every problem
     */
    public function add(Actor $actor, array $raw): array
    {
        try {
            return $this->transaction->run(function () use ($actor, $raw): array {
                $text = (new Fields($raw))->text(...);
                $problems = new ProblemList();
                $read = $problems->attempt(static fn (): array => Duties::read($raw, $actor->baseCurrency));
                if (null !== $read && [] === $read[0]) {
                    $problems->add('roles', 'Choose at least one role.');
                }
                self::username($text('username'), $problems);
                $known = $this->entities->getRepository(User::class)->findOneBy(['username' => $text('username')]);
                if (null === $known) {
                    $problems->attempt(static fn () => RecordCheck::name($text('name'), 120));
                    self::email($text('email'), $problems);
                } elseif ($known->retired) {
                    $problems->add(
                        'username',
                        'Somebody of this name was retired; bring them back, or choose another name.',
                    );
                } elseif (
                    $known->memberships->exists(
                        static fn (int $k, Membership $m): bool => $m->company->id() === $actor->companyId,
                    )
                ) {
                    $problems->add(
                        'username',
                        \sprintf('%s works here already; change the roles on their page.', $known->name),
                    );
                }
                $problems->refuse();
                \assert(null !== $read);
                $user = $known ?? new User($text('username'), $text('name'));
                if (null === $known) {
                    $user->email = $text('email');
                    $this->entities->persist($user);
                    $this->entities->flush();
                }
                $this->duties->set($actor, $user, ...$read);

                return ['id' => $user->id(), 'token' => '' === $user->passwordHash ? $this->links->make($user) : null];
            });
        } catch (UniqueConstraintViolationException) {
            throw Refused::because(
                'username',
                'Somebody of this name was added just now; choose another.',
                ProblemKind::Taken,
            );
        }
    }

    public static function username(string $username, ProblemList $problems): void
    {
        if (1 !== preg_match('/\A[a-z0-9][a-z0-9._-]{1,59}\z/', $username) || 'console' === $username) {
            $problems->add('username', 'A name to sign in with is 2 to 60 small letters, digits, points or dashes.');
        }
    }

    public static function email(string $email, ProblemList $problems): void
    {
        if (mb_strlen($email) > 190 || ('' !== $email && false === filter_var($email, \FILTER_VALIDATE_EMAIL))) {
            $problems->add('email', 'This is not an address that mail could reach; correct it, or leave it empty.');
        }
    }
}
