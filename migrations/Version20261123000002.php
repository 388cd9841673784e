<?php

declare(strict_types=1);

namespace Nelbix\Migrations;

use Doctrine\DBAL\Schema\Schema;
use Doctrine\Migrations\AbstractMigration;

/** Deliveries: goods received, not invoiced. An entry may belong to one. */
final class Version20261123000002 extends AbstractMigration
{
    public function getDescription(): string
    {
        return 'Deliveries and their lines';
    }

    public function up(Schema $schema): void
    {
        $this->addSql(
            <<<'SQL'
            CREATE TABLE delivery (id INT NOT NULL AUTO_INCREMENT PRIMARY KEY, company_id INT NOT NULL, number VARCHAR(30) NOT NULL,
                party_id INT NOT NULL, note_number VARCHAR(60) NOT NULL, delivered_on DATE NOT NULL, currency CHAR(3) NOT NULL,
                rate DECIMAL(20,10) NOT NULL, amount BIGINT NOT NULL, amount_base BIGINT NOT NULL, account_id INT NOT NULL,
                reversed_on DATE NULL, reversed_by_id INT NULL, reason VARCHAR(255) NOT NULL, created_by_id INT NOT NULL,
                created_at DATETIME NOT NULL, idempotency_key VARCHAR(64) NULL, UNIQUE (company_id, number),
                UNIQUE (company_id, idempotency_key), INDEX open_idx (company_id, reversed_on, delivered_on),
                INDEX (account_id, delivered_on), FOREIGN KEY (company_id) REFERENCES company (id),
                FOREIGN KEY (party_id) REFERENCES party (id), FOREIGN KEY (account_id) REFERENCES account (id),
                FOREIGN KEY (created_by_id) REFERENCES app_user (id),
                FOREIGN KEY (reversed_by_id) REFERENCES app_user (id)) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_unicode_ci
            SQL
            ,
        );
        $this->addSql(
            <<<'SQL'
            CREATE TABLE delivery_line (id INT NOT NULL AUTO_INCREMENT PRIMARY KEY, delivery_id INT NOT NULL,
                position SMALLINT NOT NULL, account_id INT NOT NULL, text VARCHAR(255) NOT NULL, quantity DECIMAL(15,4) NOT NULL,
                price DECIMAL(17,6) NOT NULL, amount BIGINT NOT NULL, amount_base BIGINT NOT NULL, cost_center_id INT NULL,
                department_id INT NULL, project_id INT NULL, UNIQUE (delivery_id, position),
                FOREIGN KEY (delivery_id) REFERENCES delivery (id), FOREIGN KEY (account_id) REFERENCES account (id),
                FOREIGN KEY (cost_center_id) REFERENCES analysis_code (id),
                FOREIGN KEY (department_id) REFERENCES analysis_code (id),
                FOREIGN KEY (project_id) REFERENCES analysis_code (id)) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_unicode_ci
            SQL
            ,
        );
        $this->addSql(
            <<<'SQL'
            ALTER TABLE journal_entry ADD delivery_id INT NULL AFTER settlement_id, ADD INDEX (delivery_id),
                ADD FOREIGN KEY (delivery_id) REFERENCES delivery (id)
            SQL
            ,
        );
    }

    public function isTransactional(): bool
    {
        return false;
    }
}
