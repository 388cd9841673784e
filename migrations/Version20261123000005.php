<?php

declare(strict_types=1);

namespace Nelbix\Migrations;

use Doctrine\DBAL\Schema\Schema;
use Doctrine\Migrations\AbstractMigration;

/** Batches of documents with control figures. */
final class Version20261123000005 extends AbstractMigration
{
    public function getDescription(): string
    {
        return 'Batches';
    }

    public function up(Schema $schema): void
    {
        $this->addSql(
            <<<'SQL'
            CREATE TABLE batch (id INT NOT NULL AUTO_INCREMENT PRIMARY KEY, company_id INT NOT NULL, side VARCHAR(12) NOT NULL,
                name VARCHAR(80) NOT NULL, posting_date DATE NOT NULL, control_count INT NULL, control_total BIGINT NULL,
                posted_at DATETIME NULL, created_by_id INT NOT NULL, created_at DATETIME NOT NULL,
                INDEX (company_id, side, posted_at), FOREIGN KEY (company_id) REFERENCES company (id),
                FOREIGN KEY (created_by_id) REFERENCES app_user (id)) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_unicode_ci
            SQL
            ,
        );
        $this->addSql(
            'ALTER TABLE document ADD batch_id INT NULL, ADD INDEX (batch_id), ADD FOREIGN KEY (batch_id) REFERENCES batch (id)',
        );
    }

    public function isTransactional(): bool
    {
        return false;
    }
}
