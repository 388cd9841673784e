<?php

declare(strict_types=1);

namespace Nelbix\Migrations;

use Doctrine\DBAL\Schema\Schema;
use Doctrine\Migrations\AbstractMigration;

/**
 * Who guards also writes: a posting writes its period, a worker its job, so that two servers of a cluster, which do not see each
 * other's locks, cannot both pass.
 */
final class Version20261125000025 extends AbstractMigration
{
    public function getDescription(): string
    {
        return 'Versions of what is guarded, and the lease of a job';
    }

    public function up(Schema $schema): void
    {
        $this->addSql('ALTER TABLE period ADD version INT NOT NULL DEFAULT 1');
        $this->addSql(
            <<<'SQL'
            ALTER TABLE job
                ADD version INT NOT NULL DEFAULT 1,
                ADD owner VARCHAR(60) DEFAULT NULL,
                ADD owned_until DATETIME(3) DEFAULT NULL
            SQL
            ,
        );
    }

    public function isTransactional(): bool
    {
        return false;
    }
}
