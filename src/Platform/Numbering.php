<?php

declare(strict_types=1);

namespace Nelbix\App\Platform;

use Doctrine\DBAL\Connection;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Calendar\FiscalYear;
use Symfony\Contracts\Service\ResetInterface;

/**
 * Gapless numbers. The row of a sequence is locked until the transaction ends, so a number is used exactly when its user commits.
 * What is posted gets its number last: it is announced when it is written, and the transaction gives all numbers in its last
 * statements, sequences in the order of their names. So nobody waits for a number longer than a commit takes.
 */
final class Numbering implements ResetInterface
{
    /** @var list<array{company: int, sequence: string, give: \Closure(int): void, record: object, keeper: StoresNumbers}> */
    private array $waiting = [];

    /** @var list<array{string, \Closure(): void}> */
    private array $before = [];

    /** @var list<\Closure(): void> */
    private array $then = [];

    /** @var array<int, int> by company */
    private array $firstMonths = [];

    public function __construct(private readonly Connection $db, private readonly FiscalYears $years)
    {
    }

    /** A number that is needed at once. */
    public function next(int $company, string $name): int
    {
        return $this->blocks([$company => [$name => 1]])[$company][$name];
    }

    /** The fiscal year a day lies in; numbers begin anew with each. */
    public function yearOf(int $company, Day $day): int
    {
        $year = $this->years->of($company, $day);
        if (null !== $year) {
            return $year;
        }
        // a day that the books have no period for; what is posted on it is refused later
        $this->firstMonths[$company] ??= (int) $this->db->fetchOne('SELECT first_month FROM company WHERE id = ?', [
            $company,
        ]);

        return FiscalYear::of($day, $this->firstMonths[$company]);
    }

    /** A document number such as PP-26-00412 that is needed at once. */
    public function document(int $company, string $prefix, Day $day): string
    {
        $year = $this->yearOf($company, $day);

        return self::written($prefix, $year, $this->next($company, self::sequence($prefix, $year)));
    }

    /**
     * Announces a record that gets a document number such as VI-26-00412 before the commit.
     *
     * @param \Closure(string): void $give puts the number on the record
     */
    public function announce(
        int $company,
        string $prefix,
        Day $day,
        object $record,
        \Closure $give,
        StoresNumbers $keeper,
    ): void {
        $year = $this->yearOf($company, $day);
        $this->announceSequence(
            $company,
            self::sequence($prefix, $year),
            $record,
            static fn (int $n) => $give(self::written($prefix, $year, $n)),
            $keeper,
        );
    }

    /**
     * Announces a record that gets a bare number of a sequence before the commit.
     *
     * @param \Closure(int): void $give
     */
    public function announceSequence(
        int $company,
        string $sequence,
        object $record,
        \Closure $give,
        StoresNumbers $keeper,
    ): void {
        $this->waiting[] = [
            'company' => $company,
            'sequence' => $sequence,
            'give' => $give,
            'record' => $record,
            'keeper' => $keeper,
        ];
    }

    /**
     * A last look at what the transaction relies on and others may have changed since, such as that a period is open. It is taken
     * once for each key, in the order of the keys, before any number is given, and may refuse.
     *
     * @param \Closure(): void $look
     */
    public function before(string $key, \Closure $look): void
    {
        $this->before[] = [$key, $look];
    }

    /**
     * What is still to be done once the numbers are there, such as a line of history that names one.
     *
     * @param \Closure(): void $do
     */
    public function then(\Closure $do): void
    {
        $this->then[] = $do;
    }

    /** Gives what was announced its numbers and stores them. The transaction calls it last. */
    public function give(): void
    {
        $waiting = $this->waiting;
        $then = $this->then;
        $looks = array_column($this->before, 1, 0);
        $this->forget();
        ksort($looks);
        foreach ($looks as $look) {
            $look();
        }
        $counts = [];
        foreach ($waiting as $w) {
            $counts[$w['company']][$w['sequence']] = ($counts[$w['company']][$w['sequence']] ?? 0) + 1;
        }
        $next = $this->blocks($counts);
        $records = $keepers = [];
        foreach ($waiting as $w) {
            $w['give']($next[$w['company']][$w['sequence']]++);
            $records[spl_object_id($w['keeper'])][] = $w['record'];
            $keepers[spl_object_id($w['keeper'])] = $w['keeper'];
        }
        foreach ($records as $keeper => $of) {
            $keepers[$keeper]->storeNumbers($of);
        }
        foreach ($then as $do) {
            $do();
        }
    }

    /** @return array{int, int, int} how far it is, to go back to */
    public function mark(): array
    {
        return [\count($this->waiting), \count($this->then), \count($this->before)];
    }

    /** @param array{int, int, int} $mark what was announced after it is gone; without one, everything */
    public function forget(array $mark = [0, 0, 0]): void
    {
        $this->before = \array_slice($this->before, 0, $mark[2]);
        $this->waiting = \array_slice($this->waiting, 0, $mark[0]);
        $this->then = \array_slice($this->then, 0, $mark[1]);
    }

    public function reset(): void
    {
        $this->firstMonths = [];
        $this->forget();
    }

    /**
     * Takes so many numbers of each sequence, in one statement and in the order of their names, so that those who take several wait
     * for each other and never in a circle.
     *
     * @param array<int, array<string, int>> $counts by company and sequence
     *
     * @return array<int, array<string, int>> the first number of each
     */
    private function blocks(array $counts): array
    {
        $rows = $values = [];
        ksort($counts);
        foreach ($counts as $company => $sequences) {
            ksort($sequences);
            foreach ($sequences as $sequence => $count) {
                $rows[] = '(?, ?, ?)';
                array_push($values, $company, (string) $sequence, $count);
            }
        }
        $first = [];
        foreach (
            [] === $rows
                ? []
                : $this->db->fetchAllNumeric(
                    'INSERT INTO number_sequence (company_id, name, next_value) VALUES '.
                        implode(', ', $rows).
                        ' ON DUPLICATE KEY UPDATE next_value = next_value + VALUES(next_value)'.
                        ' RETURNING company_id, name, next_value',
                    $values,
                ) as [$company, $sequence, $last]
        ) {
            $first[(int) $company][(string) $sequence] = (int) $last - $counts[(int) $company][(string) $sequence] + 1;
        }

        return $first;
    }

    private static function sequence(string $prefix, int $year): string
    {
        return \sprintf('%s-%d', $prefix, $year);
    }

    private static function written(string $prefix, int $year, int $n): string
    {
        return \sprintf('%s-%02d-%05d', $prefix, $year % 100, $n);
    }
}
