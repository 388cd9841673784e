<?php

declare(strict_types=1);

namespace Nelbix\Migrations;

use Doctrine\DBAL\Schema\Schema;
use Doctrine\Migrations\AbstractMigration;

/** Filters kept per person; recurring documents; what the outbox holds. */
final class Version20261123000006 extends AbstractMigration
{
    public function getDescription(): string
    {
        return 'Remembered filters, recurring documents, outbox';
    }

    public function up(Schema $schema): void
    {
        $end = ' ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_unicode_ci';
        $this->addSql(
            <<<'SQL'
            CREATE TABLE remembered_filter (user_id INT NOT NULL, company_id INT NOT NULL, list VARCHAR(40) NOT NULL,
                filters LONGTEXT NOT NULL, PRIMARY KEY (user_id, company_id, list), FOREIGN KEY (user_id) REFERENCES app_user (id),
                FOREIGN KEY (company_id) REFERENCES company (id))
            SQL.$end,
        );
        $this->addSql(
            <<<'SQL'
            CREATE TABLE recurring (id INT NOT NULL AUTO_INCREMENT PRIMARY KEY, company_id INT NOT NULL, side VARCHAR(12) NOT NULL,
                name VARCHAR(80) NOT NULL, form LONGTEXT NOT NULL, every VARCHAR(12) NOT NULL, weeks SMALLINT NOT NULL,
                next_on DATE NULL, first_on DATE NOT NULL, until_on DATE NULL, most SMALLINT NULL, made SMALLINT NOT NULL DEFAULT 0,
                ask_amount TINYINT(1) NOT NULL, stopped TINYINT(1) NOT NULL DEFAULT 0, created_by_id INT NOT NULL,
                created_at DATETIME NOT NULL, INDEX (company_id, side), INDEX (next_on),
                FOREIGN KEY (company_id) REFERENCES company (id), FOREIGN KEY (created_by_id) REFERENCES app_user (id))
            SQL.$end,
        );
        $this->addSql(
            <<<'SQL'
            ALTER TABLE document ADD recurring_id INT NULL, ADD recurring_on DATE NULL, ADD UNIQUE (recurring_id, recurring_on),
                ADD FOREIGN KEY (recurring_id) REFERENCES recurring (id)
            SQL
            ,
        );
        $this->addSql(
            <<<'SQL'
            CREATE TABLE outbox (id INT NOT NULL AUTO_INCREMENT PRIMARY KEY, company_id INT NOT NULL, document_id INT NULL,
                recipient VARCHAR(255) NOT NULL, subject VARCHAR(255) NOT NULL, message LONGBLOB NOT NULL,
                created_by_id INT NOT NULL, created_at DATETIME NOT NULL, INDEX (company_id, id), INDEX (document_id),
                FOREIGN KEY (company_id) REFERENCES company (id), FOREIGN KEY (document_id) REFERENCES document (id),
                FOREIGN KEY (created_by_id) REFERENCES app_user (id))
            SQL.$end,
        );
    }

    public function isTransactional(): bool
    {
        return false;
    }
}
