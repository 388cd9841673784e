<?php

declare(strict_types=1);

namespace Nelbix\App\Banking\Statement;

use Doctrine\DBAL\Connection;
use Nelbix\App\Platform\Actor;
use Nelbix\Core\Formats\Statement\CsvMapping;
use Nelbix\Core\Refused;

/** How a bank's CSV is read, kept for each bank account. */
final readonly class Mappings
{
    public function __construct(private Connection $db)
    {
    }

    public function of(int $companyId, int $bankId): ?CsvMapping
    {
        $kept = $this->db->fetchOne(
            'SELECT mapping FROM statement_mapping WHERE company_id = ? AND bank_account_id = ?',
            [$companyId, $bankId],
        );
        try {
            return false === $kept ? null : CsvMapping::of((array) json_decode((string) $kept, true));
        } catch (Refused) {
            return null;
        }
    }

    public function keep(Actor $actor, int $bankId, CsvMapping $mapping): void
    {
        $this->db->executeStatement(
            'INSERT INTO statement_mapping (company_id, bank_account_id, mapping) VALUES (?, ?, ?) '.
                'ON DUPLICATE KEY UPDATE mapping = VALUES(mapping)',
            [$actor->companyId, $bankId, json_encode($mapping->raw(), \JSON_THROW_ON_ERROR)],
        );
    }
}
