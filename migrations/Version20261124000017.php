<?php

declare(strict_types=1);

namespace Nelbix\Migrations;

use Doctrine\DBAL\Schema\Schema;
use Doctrine\Migrations\AbstractMigration;

/**
 * What a job was asked and what came of it. How far a slice is stands apart: it is written while the slice's own transaction holds the
 * job's row.
 */
final class Version20261124000017 extends AbstractMigration
{
    public function getDescription(): string
    {
        return 'Imports as long work';
    }

    public function up(Schema $schema): void
    {
        $this->addSql("ALTER TABLE job ADD options VARCHAR(60) NOT NULL DEFAULT '', ADD result MEDIUMTEXT NULL");
        $this->addSql(
            <<<'SQL'
            CREATE TABLE job_progress (job_id INT NOT NULL PRIMARY KEY,
                done INT NOT NULL) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_unicode_ci
            SQL
            ,
        );
    }

    public function isTransactional(): bool
    {
        return false;
    }
}
