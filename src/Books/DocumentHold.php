<?php

declare(strict_types=1);

namespace Nelbix\App\Books;

use Doctrine\DBAL\ArrayParameterType;
use Doctrine\DBAL\Connection;

/** Holds posted documents whose money goes its way: into a bank file, or onto a deposit slip. */
final readonly class DocumentHold
{
    public function __construct(private Connection $db)
    {
    }

    /**
     * They are written, so that whoever takes one of them back meanwhile, on this server or another, comes before this or after it. A
     * lock alone would not do: it holds on one node of a cluster.
     *
     * @param list<int> $ids
     *
     * @return int how many of them are posted
     */
    public function hold(array $ids): int
    {
        return [] === $ids
            ? 0
            : (int) $this->db->executeStatement(
                "UPDATE document SET version = version + 1 WHERE id IN (?) AND state = 'posted' ORDER BY id",
                [$ids],
                [ArrayParameterType::INTEGER],
            );
    }
}
