<?php

declare(strict_types=1);

namespace Nelbix\App\Setup\NewCompany;

use Doctrine\DBAL\Connection;
use Doctrine\ORM\EntityManagerInterface;
use Nelbix\App\Ledger\PeriodGate;
use Nelbix\App\Platform\Actor;
use Nelbix\App\Platform\BooksDay;
use Nelbix\App\Platform\Company;
use Nelbix\App\Platform\History;
use Nelbix\App\Platform\Transaction;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Ledger\AccountRole;
use Nelbix\Core\ProblemKind;
use Nelbix\Core\Refused;

/** As of which day the books are taken over from elsewhere. It stays once something was taken over as of it. */
final readonly class TakeOver
{
    public function __construct(
        private Transaction $transaction,
        private EntityManagerInterface $entities,
        private Connection $db,
        private BooksDay $booksDay,
        private PeriodGate $periods,
        private History $history,
    ) {
    }

    /** @throws Refused naming "day" */
    public function asOf(Actor $actor, string $typed): Day
    {
        return $this->transaction->run(function () use ($actor, $typed): Day {
            $day = $this->booksDay->input($actor->companyId)->read($typed, 'day');
            if (!$this->periods->isOpen($actor->companyId, $day, [])) {
                throw Refused::because(
                    'day',
                    \sprintf(
                        '%s lies in no open period; add or open one under Setup, Periods, or choose another.',
                        $day->long(),
                    ),
                );
            }
            $company = $this->entities->find(Company::class, $actor->companyId) ?? throw new \LogicException();
            if (
                null !== $company->openingDay
                && $company->openingDay->iso() !== $day->iso()
                && $this->isUnderWay($actor)
            ) {
                throw Refused::because(
                    'day',
                    'Something was taken over as of this day already; reverse that first, or leave the day as it is.',
                    ProblemKind::Taken,
                );
            }
            $before = ['opening_day' => $company->openingDay?->iso() ?? ''];
            $company->openingDay = $day;
            $this->history->change($actor, 'company', $company->id(), $before, ['opening_day' => $day->iso()]);

            return $day;
        });
    }

    /** Something stands on the opening account that is not taken back. */
    private function isUnderWay(Actor $actor): bool
    {
        return false !==
            $this->db->fetchOne(
                <<<'SQL'
                SELECT 1
                FROM account a
                JOIN journal_line l ON l.account_id = a.id
                JOIN journal_entry e ON e.id = l.entry_id AND e.reverses_id IS NULL
                LEFT JOIN journal_entry r ON r.reverses_id = e.id
                WHERE a.company_id = ? AND a.role = ? AND r.id IS NULL
                LIMIT 1
                SQL
                ,
                [$actor->companyId, AccountRole::OpeningBalances->value],
            );
    }
}
