<?php

declare(strict_types=1);

namespace Nelbix\Migrations;

use Doctrine\DBAL\Schema\Schema;
use Doctrine\Migrations\AbstractMigration;

/** Put right, notes and tasks, look-alike decisions, templates of lines. */
final class Version20261123000004 extends AbstractMigration
{
    public function getDescription(): string
    {
        return 'Put right, notes and tasks, decisions on look-alikes, line templates';
    }

    public function up(Schema $schema): void
    {
        $this->addSql(
            <<<SQL
            ALTER TABLE document ADD replaces_id INT NULL AFTER reversed_by_id, ADD against_id INT NULL AFTER replaces_id,
                ADD look_alike_reason VARCHAR(255) NOT NULL DEFAULT '', ADD INDEX (replaces_id),
                ADD FOREIGN KEY (replaces_id) REFERENCES document (id), ADD FOREIGN KEY (against_id) REFERENCES document (id)
            SQL
            ,
        );
        $this->addSql('ALTER TABLE stored_file ADD pages SMALLINT NOT NULL DEFAULT 0 AFTER size');
        $end = ' ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_unicode_ci';
        $this->addSql(
            <<<'SQL'
            CREATE TABLE note (id INT NOT NULL AUTO_INCREMENT PRIMARY KEY, company_id INT NOT NULL, document_id INT NOT NULL,
                text VARCHAR(1000) NOT NULL, for_user_id INT NULL, due_on DATE NULL, done_at DATETIME NULL, done_by_id INT NULL,
                created_by_id INT NOT NULL, created_at DATETIME NOT NULL, INDEX (document_id),
                INDEX task_idx (company_id, for_user_id, done_at), FOREIGN KEY (company_id) REFERENCES company (id),
                FOREIGN KEY (document_id) REFERENCES document (id) ON DELETE CASCADE,
                FOREIGN KEY (for_user_id) REFERENCES app_user (id), FOREIGN KEY (done_by_id) REFERENCES app_user (id),
                FOREIGN KEY (created_by_id) REFERENCES app_user (id))
            SQL.$end,
        );
        $this->addSql(
            <<<'SQL'
            CREATE TABLE line_template (id INT NOT NULL AUTO_INCREMENT PRIMARY KEY, company_id INT NOT NULL,
                side VARCHAR(12) NOT NULL, name VARCHAR(60) NOT NULL, shares LONGTEXT NOT NULL,
                retired TINYINT(1) NOT NULL DEFAULT 0, UNIQUE (company_id, side, name),
                FOREIGN KEY (company_id) REFERENCES company (id))
            SQL.$end,
        );
    }

    public function isTransactional(): bool
    {
        return false;
    }
}
