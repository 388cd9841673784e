<?php

declare(strict_types=1);

namespace Nelbix\App\Ledger;

use Doctrine\ORM\EntityManagerInterface;
use Nelbix\App\Platform\Actor;
use Nelbix\App\Platform\Company;
use Nelbix\App\Platform\History;
use Nelbix\App\Platform\Transaction;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Calendar\FiscalYear;
use Nelbix\Core\Calendar\PeriodPlan;
use Nelbix\Core\Refused;

/** Adds the periods of the year after the last one, open for everything. */
final readonly class AddYear
{
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
     * @param string $pattern a key of PeriodPlan::PATTERNS
     *
     * @throws Refused when it is not the next one: somebody else was first, or a year would be left out
     */
    public function add(Actor $actor, int $year, string $pattern = 'months'): void
    {
        $this->transaction->run(function () use ($actor, $year, $pattern): void {
            // two who add the same year wait for each other
            $this->entities
                ->getConnection()
                ->fetchFirstColumn('SELECT id FROM period WHERE company_id = ? FOR UPDATE', [$actor->companyId]);
            $next = $this->next($actor->companyId);
            if ($year !== $next || $year > 2190) {
                throw Refused::because('year', \sprintf('The next year is %d; load the page anew.', $next));
            }
            $last = (string) $this->entities
                ->getConnection()
                ->fetchOne('SELECT MAX(last_day) FROM period WHERE company_id = ?', [$actor->companyId]);
            $company = $this->entities->find(Company::class, $actor->companyId);
            $end = FiscalYear::firstDay($year + 1, $company->firstMonth ?? 1)->plusDays(-1);
            foreach (PeriodPlan::of(Day::of($last)->plusDays(1), $end, $pattern) as $n => [$first, $through]) {
                $this->entities->persist(new Period($actor->companyId, $year, $n + 1, $first, $through));
            }
            $this->history->note(
                $actor,
                'company',
                $actor->companyId,
                \sprintf('added the periods of %d, %s', $year, PeriodPlan::PATTERNS[$pattern]),
            );
        });
    }
}
