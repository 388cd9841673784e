<?php

declare(strict_types=1);

namespace Nelbix\App\Ledger;

use Doctrine\ORM\EntityManagerInterface;
use Nelbix\App\Platform\Actor;
use Nelbix\App\Platform\History;
use Nelbix\App\Platform\Transaction;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Refused;

/** Adds the periods of the year after the last one, open for everything. */
final readonly class AddYear
{
    private const MONTHS = 12;

    public function __construct(
        private Transaction $transaction,
        private EntityManagerInterface $entities,
        private History $history,
    ) {
    }

    /** The year whose periods would be added next. */
    public function next(int $companyId): int
    {
        return 1 +
            (int) $this->entities
                ->getConnection()
                ->fetchOne('SELECT MAX(year) FROM period WHERE company_id = ?', [$companyId]);
    }

    /**
     * @param int $year as the page offered it
     *
     * @throws Refused when it is not the next one: somebody else was first, or a year would be left out
     */
    public function add(Actor $actor, int $year): void
    {
        $this->transaction->run(function () use ($actor, $year): void {
            $next = $this->next($actor->companyId);
            if ($year !== $next || $year > 2190) {
                throw Refused::because('year', \sprintf('The next year is %d; load the page anew.', $next));
            }
            $last = (string) $this->entities
                ->getConnection()
                ->fetchOne('SELECT MAX(last_day) FROM period WHERE company_id = ? FOR UPDATE', [$actor->companyId]);
            $first = Day::of($last)->plusDays(1);
            for ($n = 1; $n <= self::MONTHS; ++$n) {
                $following =
                    12 === $first->month
                        ? Day::ymd($first->year + 1, 1, 1)
                        : Day::ymd($first->year, $first->month + 1, 1);
                $this->entities->persist(new Period($actor->companyId, $year, $n, $first, $following->plusDays(-1)));
                $first = $following;
            }
            $this->history->note($actor, 'company', $actor->companyId, \sprintf('added the periods of %d', $year));
        });
    }
}
