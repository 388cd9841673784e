<?php

declare(strict_types=1);

namespace Nelbix\Migrations;

use Doctrine\DBAL\Schema\Schema;
use Doctrine\Migrations\AbstractMigration;

/** Up to which day an item was charged for being late, by which document, or that it was waived. */
final class Version20261126000009 extends AbstractMigration
{
    public function getDescription(): string
    {
        return 'Finance charges by item';
    }

    public function up(Schema $schema): void
    {
        $this->addSql(
            <<<'SQL'
            CREATE TABLE late_charge (
                id INT AUTO_INCREMENT PRIMARY KEY,
                company_id INT NOT NULL,
                item_id INT NOT NULL,
                document_id INT DEFAULT NULL,
                through_on DATE NOT NULL,
                amount BIGINT NOT NULL,
                waived_why VARCHAR(255) NOT NULL DEFAULT '',
                made_by_id INT NOT NULL,
                made_at DATETIME NOT NULL,
                INDEX item_idx (item_id, through_on),
                INDEX document_idx (document_id),
                FOREIGN KEY (company_id) REFERENCES company (id),
                FOREIGN KEY (item_id) REFERENCES open_item (id),
                FOREIGN KEY (document_id) REFERENCES document (id),
                FOREIGN KEY (made_by_id) REFERENCES app_user (id)
            ) DEFAULT CHARACTER SET utf8mb4 COLLATE utf8mb4_unicode_ci ENGINE = InnoDB
            SQL
            ,
        );
    }
}
