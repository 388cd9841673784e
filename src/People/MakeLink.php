<?php

declare(strict_types=1);

namespace Nelbix\App\People;

use Nelbix\App\Platform\Actor;
use Nelbix\App\Platform\Company;
use Nelbix\App\Platform\History;
use Nelbix\App\Platform\Transaction;
use Nelbix\Core\Refused;

/** Gives a person a new link to set a password with. */
final readonly class MakeLink
{
    public function __construct(
        private Transaction $transaction,
        private People $people,
        private PersonalLinks $links,
        private History $history,
    ) {
    }

    /**
     * @return string the link's token
     *
     * @throws Refused for somebody retired, and somebody who also works where the actor is no controller
     */
    public function make(Actor $actor, int $userId): string
    {
        return $this->transaction->run(function () use ($actor, $userId): string {
            $user = $this->people->one($actor, $userId);
            if ($user->retired) {
                throw Refused::because('', \sprintf('%s is retired; bring them back first.', $user->name));
            }
            $elsewhere = $this->people->elsewhere($actor, $user);
            if ([] !== $elsewhere) {
                throw Refused::because(
                    '',
                    \sprintf(
                        '%s also works in %s; a controller of all of it makes the link.',
                        $user->name,
                        implode(', ', array_map(static fn (Company $c): string => $c->name, $elsewhere)),
                    ),
                );
            }
            $this->history->note($actor, 'person', $userId, 'link to set a password made');

            return $this->links->make($user);
        });
    }
}
