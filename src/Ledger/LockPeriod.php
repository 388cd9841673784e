<?php

declare(strict_types=1);

namespace Nelbix\App\Ledger;

use Doctrine\DBAL\LockMode;
use Doctrine\ORM\EntityManagerInterface;
use Nelbix\App\People\MayDo;
use Nelbix\App\Platform\Actor;
use Nelbix\App\Platform\History;
use Nelbix\App\Platform\Permission;
use Nelbix\App\Platform\Transaction;
use Nelbix\Core\ProblemKind;
use Nelbix\Core\Refused;

/** Locks or opens a period for the general ledger, or for one party ledger, with a reason, by a controller. */
final readonly class LockPeriod
{
    public const WHICH = [
        'payables' => 'payablesLocked',
        'receivables' => 'receivablesLocked',
        'ledger' => 'ledgerLocked',
    ];

    public function __construct(
        private Transaction $transaction,
        private EntityManagerInterface $entities,
        private MayDo $mayDo,
        private History $history,
    ) {
    }

    /**
     * @param string $which a key of WHICH
     * @param bool $locked what it shall be; what it is must be the other, or somebody else was first
     * @param string $why the history keeps the words
     *
     * @return string what happened, in words
     *
     * @throws Refused
     */
    public function set(Actor $actor, int $periodId, string $which, bool $locked, string $why): string
    {
        return $this->transaction->run(function () use ($actor, $periodId, $which, $locked, $why): string {
            $this->mayDo->must($actor, Permission::Control, 'A controller locks and opens periods.');
            $period = $this->entities->find(Period::class, $periodId, LockMode::PESSIMISTIC_WRITE);
            if (null === $period || $period->companyId !== $actor->companyId || !isset(self::WHICH[$which])) {
                throw Refused::because(
                    'period',
                    'There is no such period or lock in this company.',
                    ProblemKind::Unknown,
                );
            }
            $this->entities->refresh($period, LockMode::PESSIMISTIC_WRITE);
            $property = self::WHICH[$which];
            if ($period->{$property} === $locked) {
                throw Refused::because(
                    'period',
                    \sprintf('It is %s already; somebody else was first.', $locked ? 'locked' : 'open'),
                    ProblemKind::Taken,
                );
            }
            if ('' === trim($why)) {
                throw Refused::because(
                    'why',
                    \sprintf('Say why it is %s; the history keeps your words.', $locked ? 'locked' : 'opened'),
                    ProblemKind::Missing,
                );
            }
            $period->{$property} = $locked;
            $word = \sprintf(
                '%s %s for %s',
                $locked ? 'locked' : 'opened',
                $period->name(),
                'ledger' === $which ? 'the general ledger' : $which,
            );
            $this->history->note($actor, 'period', $periodId, $word, mb_substr(trim($why), 0, 255));

            return ucfirst($word).'.';
        });
    }
}
