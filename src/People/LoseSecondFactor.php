<?php

declare(strict_types=1);

namespace Nelbix\App\People;

use Nelbix\App\Platform\Actor;
use Nelbix\App\Platform\History;
use Nelbix\App\Platform\Transaction;
use Nelbix\Core\Refused;

/** A controller takes the second factor of somebody away who lost the telephone and the recovery codes. */
final readonly class LoseSecondFactor
{
    public function __construct(
        private Transaction $transaction,
        private People $people,
        private SecondFactor $secondFactor,
        private Presences $presences,
        private History $history,
    ) {
    }

    /** @throws Refused without a reason, for oneself, and for somebody who has none */
    public function take(Actor $actor, int $userId, string $reason): User
    {
        return $this->transaction->run(function () use ($actor, $userId, $reason): User {
            $user = $this->people->one($actor, $userId);
            if ($userId === $actor->userId || [] !== $this->people->elsewhere($actor, $user)) {
                throw Refused::because('', 'Another controller does this, of every company where the person works.');
            }
            if (null === $user->secondFactor) {
                throw Refused::because('', \sprintf('%s has no second factor.', $user->name));
            }
            if ('' === trim($reason)) {
                throw Refused::because('why', 'Say why, such as a lost telephone.');
            }
            $this->secondFactor->take($user);
            $this->presences->endAll($userId);
            $this->history->note(
                $actor,
                'person',
                $userId,
                'second factor taken away',
                mb_substr(trim($reason), 0, 255),
            );

            return $user;
        });
    }
}
