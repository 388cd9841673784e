<?php

declare(strict_types=1);

namespace Nelbix\App\Close;

use Doctrine\DBAL\Connection;

/** An account of the chart as of a day: what it holds and what moved it. */
final readonly class AccountQuery
{
    public function __construct(private Connection $db)
    {
    }

    /** @return array{id: int, number: string, name: string}|null null when it is of another company */
    public function find(int $companyId, int $id): ?array
    {
        $row = $this->db->fetchAssociative('SELECT id, number, name FROM account WHERE id = ? AND company_id = ?', [
            $id,
            $companyId,
        ]);

        return false === $row
            ? null
            : ['id' => (int) $row['id'], 'number' => (string) $row['number'], 'name' => (string) $row['name']];
    }
}
