<?php

declare(strict_types=1);

namespace Nelbix\App\Ledger;

use Doctrine\DBAL\Connection;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Ledger\Side;
use Nelbix\Core\Refused;

/** Says whether a day may be posted on: the general ledger's lock, and that of each party ledger touched. */
final readonly class PeriodGate
{
    public function __construct(private Connection $db, private SignedOffDays $signedOff)
    {
    }

    /**
     * @param list<Side> $sides party ledgers touched
     *
     * @throws Refused naming the field
     */
    public function mustBeOpen(int $companyId, Day $day, array $sides, string $field = 'posting_date'): void
    {
        $closed = $this->closedBy($companyId, $day, $sides);
        if (null === $closed) {
            $through = $this->signedOff->through($companyId, $sides);
            if (null !== $through && !$day->isAfter($through)) {
                throw SignedOffDays::refused($through, $field);
            }

            return;
        }
        $open = $this->db->fetchOne(
            'SELECT MIN(first_day) FROM period WHERE company_id = ? AND first_day > ? AND ledger_locked = 0'.
                $this->sideSql($sides),
            [$companyId, $day->iso()],
        );
        throw Refused::because(
            $field,
            'none' === $closed
                ? \sprintf('There is no period for %s; a controller can make one under Setup, Periods.', $day->long())
                : \sprintf(
                    '%s lies in a period whose %s is locked; %s',
                    $day->long(),
                    $closed,
                    \is_string($open)
                        ? 'choose a date from '.Day::of($open)->long().' on, or ask a controller.'
                        : 'ask a controller to open one.',
                ),
        );
    }

    /** @param list<Side> $sides */
    public function isOpen(int $companyId, Day $day, array $sides): bool
    {
        $through = $this->signedOff->through($companyId, $sides);

        return (null === $through || $day->isAfter($through)) && null === $this->closedBy($companyId, $day, $sides);
    }

    /**
     * The day itself when it is open, else the first later one that is.
     *
     * @param list<Side> $sides
     *
     * @throws Refused when no later period is open
     */
    public function firstOpen(int $companyId, Day $day, array $sides): Day
    {
        $through = $this->signedOff->through($companyId, $sides);
        if (null !== $through && !$day->isAfter($through)) {
            $day = $through->plusDays(1);
        }
        if (null === $this->closedBy($companyId, $day, $sides)) {
            return $day;
        }
        $open = $this->db->fetchOne(
            'SELECT MIN(first_day) FROM period WHERE company_id = ? AND first_day > ? AND ledger_locked = 0'.
                $this->sideSql($sides),
            [$companyId, $day->iso()],
        );

        return \is_string($open)
            ? Day::of($open)
            : throw Refused::because('posting_date', 'No later period is open; ask a controller to open one.');
    }

    /**
     * The last look before the commit: the period is written, so that whoever locks it meanwhile, on this server or another, comes
     * before this posting or after it.
     *
     * @param list<Side> $sides
     *
     * @throws Refused when it was locked or signed off since
     */
    public function hold(int $companyId, Day $day, array $sides): void
    {
        $held = $this->db->executeStatement(
            <<<'SQL'
            UPDATE period SET version = version + 1
            WHERE company_id = ? AND first_day <= ? AND last_day >= ? AND ledger_locked = 0
            SQL
            .$this->sideSql($sides),
            [$companyId, $day->iso(), $day->iso()],
        );
        if (0 === (int) $held) {
            $this->mustBeOpen($companyId, $day, $sides);
            throw new \LogicException('A period is open that could not be held.');
        }
        $through = $this->signedOff->through($companyId, $sides);
        if (null !== $through && !$day->isAfter($through)) {
            throw SignedOffDays::refused($through, 'posting_date');
        }
    }

    /** The first day of the fiscal year that a day lies in; null when the books have no period for it. */
    public function yearStart(int $companyId, Day $day): ?Day
    {
        $first = $this->db->fetchOne(
            <<<'SQL'
            SELECT MIN(y.first_day)
            FROM period p
            JOIN period y ON y.company_id = p.company_id AND y.year = p.year
            WHERE p.company_id = ? AND p.first_day <= ? AND p.last_day >= ?
            SQL
            ,
            [$companyId, $day->iso(), $day->iso()],
        );

        return \is_string($first) ? Day::of($first) : null;
    }

    /** @return list<array<string, mixed>> all of them with their locks, by first day */
    public function of(int $companyId): array
    {
        return $this->db->fetchAllAssociative(
            <<<'SQL'
            SELECT id, year, number, first_day, last_day, ledger_locked, payables_locked, receivables_locked
            FROM period
            WHERE company_id = ?
            ORDER BY first_day
            SQL
            ,
            [$companyId],
        );
    }

    /** @param list<Side> $sides */
    private function closedBy(int $companyId, Day $day, array $sides): ?string
    {
        $row = $this->db->fetchAssociative(
            <<<'SQL'
            SELECT ledger_locked, payables_locked, receivables_locked
            FROM period
            WHERE company_id = ? AND first_day <= ? AND last_day >= ?
            SQL
            ,
            [$companyId, $day->iso(), $day->iso()],
        );
        if (false === $row) {
            return 'none';
        }
        if ((bool) $row['ledger_locked']) {
            return 'general ledger';
        }
        foreach ($sides as $side) {
            if ((bool) $row[$side->value.'_locked']) {
                return $side->value.' ledger';
            }
        }

        return null;
    }

    /** @param list<Side> $sides */
    private function sideSql(array $sides): string
    {
        return implode('', array_map(static fn (Side $s): string => ' AND '.$s->value.'_locked = 0', $sides));
    }
}
