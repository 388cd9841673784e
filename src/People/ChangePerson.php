<?php

declare(strict_types=1);

namespace Nelbix\App\People;

use Nelbix\App\Platform\Actor;
use Nelbix\App\Platform\Fields;
use Nelbix\App\Platform\History;
use Nelbix\App\Platform\RecordCheck;
use Nelbix\App\Platform\Transaction;
use Nelbix\Core\ProblemList;
use Nelbix\Core\Refused;

/** Changes a person's name, address, roles, limit, as the controller says. */
final readonly class ChangePerson
{
    public function __construct(
        private Transaction $transaction,
        private People $people,
        private Duties $duties,
        private History $history,
    ) {
    }

    /**
     * @param array<mixed> $raw name, email, roles[], limit, reason
     *
     * @throws Refused with every problem
     */
    public function change(Actor $actor, int $userId, array $raw): User
    {
        return $this->transaction->run(function () use ($actor, $userId, $raw): User {
            $user = $this->people->one($actor, $userId);
            $text = (new Fields($raw))->text(...);
            $problems = new ProblemList();
            $read = $problems->attempt(static fn (): array => Duties::read($raw, $actor->baseCurrency));
            $problems->attempt(static fn () => RecordCheck::name($text('name'), 120));
            AddPerson::email($text('email'), $problems);
            $problems->refuse();
            \assert(null !== $read);
            $before = ['name' => $user->name, 'email' => $user->email];
            $user->name = $text('name');
            $user->email = $text('email');
            $this->history->change($actor, 'person', $userId, $before, [
                'name' => $user->name,
                'email' => $user->email,
            ]);
            $this->duties->set($actor, $user, ...$read);

            return $user;
        });
    }
}
