<?php

declare(strict_types=1);

namespace Nelbix\App\Setup;

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

    /** @return string what happened, in words */
    public function toggle(Actor $actor, int $periodId, string $which): string
    {
        return $this->transaction->run(function () use ($actor, $periodId, $which): string {
            $period = $this->entities->find(Period::class, $periodId);
            if (null === $period || $period->companyId !== $actor->companyId || !isset(self::WHICH[$which])) {
                throw Refused::because(
                    'period',
                    'There is no such period or lock in this company.',
                    ProblemKind::Unknown,
                );
            }
            $property = self::WHICH[$which];
            $period->{$property} = !$period->{$property};
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
