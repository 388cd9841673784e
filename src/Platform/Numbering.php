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
        $this->db->executeStatement('INSERT INTO number_sequence (company_id, name, next_value) VALUES (?, ?, LAST_INSERT_ID(1)) ON DUPLICATE KEY UPDATE next_value = LAST_INSERT_ID(next_value + 1)', [$company, $name]);

        return (int) $this->db->fetchOne('SELECT LAST_INSERT_ID()');
    }

    /** A document number such as VI-26-00412. */
    public function document(int $company, string $prefix, int $year): string
    {
        return \sprintf('%s-%02d-%05d', $prefix, $year % 100, $this->next($company, \sprintf('%s-%d', $prefix, $year)));
    }
}
