<?php

declare(strict_types=1);

namespace Nelbix\App\People;

use Nelbix\App\Platform\Actor;
use Nelbix\App\Platform\Company;
use Nelbix\App\Platform\History;
use Nelbix\App\Platform\Transaction;
use Nelbix\Core\Refused;

/** Retires a person, who is signed out everywhere at once, or brings one back. What they did stays under their name. */
final readonly class RetirePerson
{
    public function __construct(
        private Transaction $transaction,
        private People $people,
        private Duties $duties,
        private Presences $presences,
        private PersonalLinks $links,
        private History $history,
    ) {
    }

    /** @throws Refused for oneself, the last controller, and somebody who also works where the actor is no controller */
    public function set(Actor $actor, int $userId, bool $retired, string $reason): User
    {
        return $this->transaction->run(function () use ($actor, $userId, $retired, $reason): User {
            $user = $this->people->one($actor, $userId);
            if ($userId === $actor->userId) {
                throw Refused::because('', 'Nobody retires themselves; another controller does.');
            }
            $elsewhere = $this->people->elsewhere($actor, $user);
            if ([] !== $elsewhere) {
                throw Refused::because(
                    '',
                    \sprintf(
                        '%s also works in %s, where you are no controller; take the roles here away instead.',
                        $user->name,
                        implode(', ', array_map(static fn (Company $c): string => $c->name, $elsewhere)),
                    ),
                );
            }
            if ($user->retired === $retired) {
                throw Refused::because(
                    '',
                    \sprintf('%s is %s.', $user->name, $retired ? 'retired already' : 'not retired'),
                );
            }
            foreach ($user->memberships as $membership) {
                $this->duties->hold($membership->company);
                if ($retired && Role::Controller === $membership->role) {
                    $this->duties->anotherController($membership->company, $user);
                }
            }
            $user->retired = $retired;
            if ($retired) {
                $this->presences->endAll($userId);
                $this->links->forget($userId);
            }
            $this->history->note(
                $actor,
                'person',
                $userId,
                $retired ? 'retired' : 'brought back',
                mb_substr(trim($reason), 0, 255),
            );

            return $user;
        });
    }
}
