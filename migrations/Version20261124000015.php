<?php

declare(strict_types=1);

namespace Nelbix\Migrations;

use Doctrine\DBAL\Schema\Schema;
use Doctrine\Migrations\AbstractMigration;

/**
 * The job table: long work, done in slices that each commit. "standing" holds the subject's name while a job on it is under way, so
 * that there is never a second one.
 */
final class Version20261124000015 extends AbstractMigration
{
    public function getDescription(): string
    {
        return 'Long work with progress';
    }

    public function up(Schema $schema): void
    {
        $this->addSql(
            <<<SQL
            CREATE TABLE job (id INT NOT NULL AUTO_INCREMENT PRIMARY KEY, company_id INT NOT NULL, user_id INT NOT NULL,
                kind VARCHAR(20) NOT NULL, subject_id INT NOT NULL, title VARCHAR(120) NOT NULL, state VARCHAR(10) NOT NULL,
                done INT NOT NULL DEFAULT 0, total INT NOT NULL, said VARCHAR(1000) NOT NULL DEFAULT '', standing VARCHAR(40) NULL,
                created_at DATETIME NOT NULL, ended_at DATETIME NULL, UNIQUE (standing), INDEX (state, id), INDEX (company_id, id),
                INDEX (kind, subject_id, id), FOREIGN KEY (company_id) REFERENCES company (id),
                FOREIGN KEY (user_id) REFERENCES app_user (id)) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_unicode_ci
            SQL
            ,
        );
    }

    public function isTransactional(): bool
    {
        return false;
    }
}
