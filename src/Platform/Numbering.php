<?php

declare(strict_types=1);

namespace Nelbix\App\Platform;

use Doctrine\DBAL\Connection;

/** Gapless numbers: the row is locked until the transaction ends, so a number is used exactly when its user commits. Taken last. */
final readonly class Numbering
{
    public function __construct(private Connection $db)
    {
    }

    public function next(int $company, string $name): int
    {
        return $this->block($company, $name, 1);
    }

    /** Takes so many numbers in a row. @return int the first of them */
    public function block(int $company, string $name, int $count): int
    {
        $this->db->executeStatement(
            <<<'SQL'
            INSERT INTO number_sequence (company_id, name, next_value)
            VALUES (?, ?, LAST_INSERT_ID(?))
            ON DUPLICATE KEY UPDATE next_value = LAST_INSERT_ID(next_value + ?)
            SQL
            ,
            [$company, $name, $count, $count],
        );

        return (int) $this->db->fetchOne('SELECT LAST_INSERT_ID()') - $count + 1;
    }

    /** A document number such as VI-26-00412. */
    public function document(int $company, string $prefix, int $year): string
    {
        return $this->documents($company, $prefix, $year, 1)[0];
    }

    /** @return non-empty-list<string> so many document numbers in a row */
    public function documents(int $company, string $prefix, int $year, int $count): array
    {
        $first = $this->block($company, \sprintf('%s-%d', $prefix, $year), $count);
        $numbers = array_map(
            static fn (int $n): string => \sprintf('%s-%02d-%05d', $prefix, $year % 100, $n),
            range($first, $first + $count - 1),
        );
        \assert([] !== $numbers);

        return $numbers;
    }
}
