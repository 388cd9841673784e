<?php

declare(strict_types=1);

namespace Nelbix\Migrations;

use Doctrine\DBAL\Schema\Schema;
use Doctrine\Migrations\AbstractMigration;

/** Years are closed to retained earnings. */
final class Version20261127000005 extends AbstractMigration
{
    public function getDescription(): string
    {
        return 'Year end';
    }

    public function up(Schema $schema): void
    {
        $this->addSql(
            <<<'SQL'
            CREATE TABLE year_end (
                id INT AUTO_INCREMENT PRIMARY KEY,
                company_id INT NOT NULL,
                year SMALLINT NOT NULL,
                result BIGINT NOT NULL,
                entry_id INT DEFAULT NULL,
                created_by_id INT NOT NULL,
                created_at DATETIME NOT NULL,
                undone_by_id INT DEFAULT NULL,
                undone_at DATETIME DEFAULT NULL,
                undone_why VARCHAR(255) NOT NULL,
                INDEX year_idx (company_id, year),
                FOREIGN KEY (company_id) REFERENCES company (id),
                FOREIGN KEY (entry_id) REFERENCES journal_entry (id),
                FOREIGN KEY (created_by_id) REFERENCES app_user (id)
            ) DEFAULT CHARACTER SET utf8mb4 COLLATE utf8mb4_unicode_ci ENGINE = InnoDB
            SQL
            ,
        );
        $this->addSql(
            "UPDATE account SET role = 'retained_earnings' WHERE number = '3900' AND name LIKE 'Retained%' AND role IS NULL",
        );
    }

    public function down(Schema $schema): void
    {
        $this->addSql("UPDATE account SET role = NULL WHERE role = 'retained_earnings'");
        $this->addSql('DROP TABLE year_end');
    }
}
