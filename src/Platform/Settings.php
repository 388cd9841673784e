<?php

declare(strict_types=1);

namespace Nelbix\App\Platform;

use Doctrine\DBAL\Connection;
use Symfony\Contracts\Service\ResetInterface;

/** Reads and keeps the settings of a company; what was never set has the default of rules.md. */
final class Settings implements ResetInterface
{
    /** @var array<int, CompanySettings> */
    private array $loaded = [];

    public function __construct(private readonly Connection $db)
    {
    }

    public function of(int $companyId): CompanySettings
    {
        return $this->loaded[$companyId] ??= new CompanySettings(
            $this->db->fetchAllKeyValue('SELECT name, value FROM setting WHERE company_id = ?', [$companyId]),
        );
    }

    /** @param array<string, string> $values checked by CompanySettings::read */
    public function keep(int $companyId, array $values): void
    {
        foreach ($values as $name => $value) {
            $this->db->executeStatement(
                'INSERT INTO setting (company_id, name, value) VALUES (?, ?, ?) ON DUPLICATE KEY UPDATE value = VALUES(value)',
                [$companyId, $name, $value],
            );
        }
        unset($this->loaded[$companyId]);
    }

    public function reset(): void
    {
        $this->loaded = [];
    }
}
