<?php

declare(strict_types=1);

namespace Nelbix\Migrations;

use Doctrine\DBAL\Schema\Schema;
use Doctrine\Migrations\AbstractMigration;

/** Entries by hand wait for approval, come again, and are taken back on a day. */
final class Version20261127000004 extends AbstractMigration
{
    public function getDescription(): string
    {
        return 'Entries by hand';
    }

    public function up(Schema $schema): void
    {
        $this->addSql(
            <<<'SQL'
            CREATE TABLE manual_entry (
                id INT AUTO_INCREMENT PRIMARY KEY,
                company_id INT NOT NULL,
                state VARCHAR(10) NOT NULL,
                day DATE NOT NULL,
                text VARCHAR(255) NOT NULL,
                form JSON NOT NULL,
                amount BIGINT NOT NULL,
                bypass TINYINT(1) NOT NULL,
                bypass_why VARCHAR(255) NOT NULL,
                allowed_by_id INT DEFAULT NULL,
                approved_by_id INT DEFAULT NULL,
                refused_why VARCHAR(255) NOT NULL,
                reverses_on DATE DEFAULT NULL,
                entry_id INT DEFAULT NULL,
                every VARCHAR(12) NOT NULL,
                weeks SMALLINT NOT NULL,
                until_on DATE DEFAULT NULL,
                next_on DATE DEFAULT NULL,
                made SMALLINT NOT NULL,
                recurring_id INT DEFAULT NULL,
                recurring_on DATE DEFAULT NULL,
                version INT DEFAULT 1 NOT NULL,
                created_by_id INT NOT NULL,
                created_at DATETIME NOT NULL,
                INDEX state_idx (company_id, state, day),
                INDEX due_idx (company_id, next_on),
                UNIQUE INDEX recurring_idx (recurring_id, recurring_on),
                FOREIGN KEY (company_id) REFERENCES company (id),
                FOREIGN KEY (entry_id) REFERENCES journal_entry (id),
                FOREIGN KEY (recurring_id) REFERENCES manual_entry (id)
            ) DEFAULT CHARACTER SET utf8mb4 COLLATE utf8mb4_unicode_ci ENGINE = InnoDB
            SQL
            ,
        );
    }

    public function down(Schema $schema): void
    {
        $this->addSql('DROP TABLE manual_entry');
    }
}
