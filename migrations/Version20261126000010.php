<?php

declare(strict_types=1);

namespace Nelbix\Migrations;

use Doctrine\DBAL\Schema\Schema;
use Doctrine\Migrations\AbstractMigration;

/** Reminders that were sent, rung by rung, and promises to pay that stop them. */
final class Version20261126000010 extends AbstractMigration
{
    public function getDescription(): string
    {
        return 'Reminders and promises';
    }

    public function up(Schema $schema): void
    {
        $this->addSql(
            "ALTER TABLE reminder_ladder ADD fees VARCHAR(160) NOT NULL DEFAULT '', ADD texts VARCHAR(2000) NOT NULL DEFAULT ''",
        );
        $this->addSql(
            <<<'SQL'
            CREATE TABLE reminder (
                id INT AUTO_INCREMENT PRIMARY KEY,
                company_id INT NOT NULL,
                party_id INT NOT NULL,
                rung SMALLINT NOT NULL,
                sent_on DATE NOT NULL,
                fee_document_id INT DEFAULT NULL,
                made_by_id INT NOT NULL,
                made_at DATETIME NOT NULL,
                INDEX party_idx (party_id, sent_on),
                FOREIGN KEY (company_id) REFERENCES company (id),
                FOREIGN KEY (party_id) REFERENCES party (id),
                FOREIGN KEY (fee_document_id) REFERENCES document (id),
                FOREIGN KEY (made_by_id) REFERENCES app_user (id)
            ) DEFAULT CHARACTER SET utf8mb4 COLLATE utf8mb4_unicode_ci ENGINE = InnoDB
            SQL
            ,
        );
        $this->addSql(
            <<<'SQL'
            CREATE TABLE reminder_item (
                reminder_id INT NOT NULL,
                item_id INT NOT NULL,
                open BIGINT NOT NULL,
                PRIMARY KEY (reminder_id, item_id),
                INDEX item_idx (item_id),
                FOREIGN KEY (reminder_id) REFERENCES reminder (id),
                FOREIGN KEY (item_id) REFERENCES open_item (id)
            ) DEFAULT CHARACTER SET utf8mb4 COLLATE utf8mb4_unicode_ci ENGINE = InnoDB
            SQL
            ,
        );
        $this->addSql(
            <<<'SQL'
            CREATE TABLE promise (
                id INT AUTO_INCREMENT PRIMARY KEY,
                company_id INT NOT NULL,
                party_id INT NOT NULL,
                until_on DATE NOT NULL,
                text VARCHAR(255) NOT NULL,
                taken_back_at DATETIME DEFAULT NULL,
                made_by_id INT NOT NULL,
                made_at DATETIME NOT NULL,
                INDEX party_idx (party_id, until_on),
                FOREIGN KEY (company_id) REFERENCES company (id),
                FOREIGN KEY (party_id) REFERENCES party (id),
                FOREIGN KEY (made_by_id) REFERENCES app_user (id)
            ) DEFAULT CHARACTER SET utf8mb4 COLLATE utf8mb4_unicode_ci ENGINE = InnoDB
            SQL
            ,
        );
    }
}
