<?php

declare(strict_types=1);

namespace Nelbix\App\Platform\Operate;

use Doctrine\DBAL\Connection;
use Doctrine\DBAL\Exception;

/** Whether the database takes work: it answers, and where it is a node of a cluster, the node is part of the majority. */
final readonly class DatabaseReady
{
    public function __construct(private Connection $db)
    {
    }

    public function now(): bool
    {
        try {
            $this->db->fetchOne('SELECT 1 FROM company LIMIT 1');

            // a node that left its cluster answers, and must not be asked
            return 1 !== (int) $this->db->fetchOne('SELECT @@global.wsrep_on')
                || 'ON' === ($this->db->fetchNumeric("SHOW STATUS LIKE 'wsrep_ready'")[1] ?? '');
        } catch (Exception) {
            return false;
        }
    }
}
