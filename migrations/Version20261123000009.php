<?php

declare(strict_types=1);

namespace Nelbix\Migrations;

use Doctrine\DBAL\Schema\Schema;
use Doctrine\Migrations\AbstractMigration;

/** Vendors and customers in full: stops, addresses, contacts, defaults, salesperson. */
final class Version20261123000009 extends AbstractMigration
{
    public function getDescription(): string
    {
        return 'Stops, addresses and contacts of parties; their defaults and salesperson';
    }

    public function up(Schema $schema): void
    {
        $end = ' ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_unicode_ci';
        $this->addSql(
            <<<'SQL'
            CREATE TABLE party_stop (id INT NOT NULL AUTO_INCREMENT PRIMARY KEY, party_id INT NOT NULL, what VARCHAR(10) NOT NULL,
                reason VARCHAR(255) NOT NULL, set_by_id INT NOT NULL, set_at DATETIME NOT NULL, ends_on DATE NULL,
                UNIQUE (party_id, what), FOREIGN KEY (party_id) REFERENCES party (id),
                FOREIGN KEY (set_by_id) REFERENCES app_user (id))
            SQL.$end,
        );
        $this->addSql(
            <<<SQL
            INSERT INTO party_stop (party_id, what, reason, set_by_id, set_at)
            SELECT p.id, 'payment', p.payment_stop, (SELECT MIN(id) FROM app_user), NOW()
            FROM party p
            WHERE p.payment_stop IS NOT NULL
            SQL
            ,
        );
        $this->addSql(
            <<<'SQL'
            CREATE TABLE party_address (id INT NOT NULL AUTO_INCREMENT PRIMARY KEY, party_id INT NOT NULL,
                kind VARCHAR(10) NOT NULL, name VARCHAR(120) NOT NULL, street VARCHAR(160) NOT NULL, city VARCHAR(120) NOT NULL,
                country VARCHAR(60) NOT NULL, UNIQUE (party_id, kind), FOREIGN KEY (party_id) REFERENCES party (id))
            SQL.$end,
        );
        $this->addSql(
            <<<'SQL'
            CREATE TABLE party_contact (id INT NOT NULL AUTO_INCREMENT PRIMARY KEY, party_id INT NOT NULL,
                position SMALLINT NOT NULL, name VARCHAR(120) NOT NULL, does VARCHAR(80) NOT NULL, email VARCHAR(160) NOT NULL,
                phone VARCHAR(40) NOT NULL, UNIQUE (party_id, position), FOREIGN KEY (party_id) REFERENCES party (id))
            SQL.$end,
        );
        $this->addSql(
            <<<SQL
            ALTER TABLE party DROP COLUMN payment_stop, ADD default_tax_code_id INT NULL, ADD cost_center_id INT NULL,
                ADD department_id INT NULL, ADD project_id INT NULL, ADD salesperson VARCHAR(80) NOT NULL DEFAULT '',
                ADD commission_percent DECIMAL(7,4) NULL, ADD FOREIGN KEY (default_tax_code_id) REFERENCES tax_code (id),
                ADD FOREIGN KEY (cost_center_id) REFERENCES analysis_code (id),
                ADD FOREIGN KEY (department_id) REFERENCES analysis_code (id),
                ADD FOREIGN KEY (project_id) REFERENCES analysis_code (id)
            SQL
            ,
        );
    }

    public function isTransactional(): bool
    {
        return false;
    }
}
