<?php

declare(strict_types=1);

namespace Nelbix\App\Setup;

use Doctrine\DBAL\LockMode;
use Doctrine\ORM\EntityManagerInterface;
use Nelbix\App\Ledger\Period;
use Nelbix\App\Platform\Actor;
use Nelbix\App\Platform\History;
use Nelbix\App\Platform\Transaction;
use Nelbix\Core\ProblemKind;
use Nelbix\Core\Refused;

/** Locks or opens a period for the general ledger, or for one party ledger. */
final readonly class LockPeriod
{
    private const WHICH = [
        'ledger' => 'ledgerLocked',
        'payables' => 'payablesLocked',
        'receivables' => 'receivablesLocked',
    ];

    public function __construct(
        private Transaction $transaction,
        private EntityManagerInterface $entities,
        private History $history,
    ) {
    }

    /**
     * @param string $which ledger, payables or receivables
     *
     * @return string what happened, in words
     *
     * @throws Refused also when it is so already: somebody else was first
     */
    public function set(Actor $actor, int $periodId, string $which, bool $locked): string
    {
        return $this->transaction->run(function () use ($actor, $periodId, $which, $locked): string {
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
            $period->{$property} = $locked;
            $word = \sprintf(
                '%s %s for %s',
                $period->{$property} ? 'locked' : 'opened',
                \sprintf('%d/%02d', $period->year, $period->number),
                'ledger' === $which ? 'the general ledger' : $which,
            );
            $this->history->note($actor, 'period', $periodId, $word);

            return ucfirst($word).'.';
        });
    }
}
