<?php

declare(strict_types=1);

namespace Nelbix\Migrations;

use Doctrine\DBAL\Schema\Schema;
use Doctrine\Migrations\AbstractMigration;

/**
 * What a party has of its own: control accounts, withholding, profiles for statements, reminders and finance charges, more bank
 * accounts; allowances on a line.
 */
final class Version20261123000012 extends AbstractMigration
{
    public function getDescription(): string
    {
        return 'Profiles and bank accounts of parties, reminder ladders, allowance on a line';
    }

    public function up(Schema $schema): void
    {
        $end = ' ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_unicode_ci';
        $this->addSql(
            <<<'SQL'
            CREATE TABLE reminder_ladder (id INT NOT NULL AUTO_INCREMENT PRIMARY KEY, company_id INT NOT NULL,
                code VARCHAR(20) NOT NULL, name VARCHAR(120) NOT NULL, rungs VARCHAR(60) NOT NULL,
                retired TINYINT(1) NOT NULL DEFAULT 0, UNIQUE (company_id, code), FOREIGN KEY (company_id) REFERENCES company (id))
            SQL.$end,
        );
        $this->addSql(
            <<<SQL
            ALTER TABLE party ADD withholding_percent DECIMAL(7,4) NULL, ADD control_account_id INT NULL,
                ADD prepayment_account_id INT NULL, ADD statement VARCHAR(10) NOT NULL DEFAULT 'none',
                ADD reminder_ladder_id INT NULL, ADD charge_rate DECIMAL(7,4) NULL,
                ADD charge_grace_days SMALLINT NOT NULL DEFAULT 0, ADD charge_smallest BIGINT NOT NULL DEFAULT 0,
                ADD charge_on_charges TINYINT(1) NOT NULL DEFAULT 0, ADD FOREIGN KEY (control_account_id) REFERENCES account (id),
                ADD FOREIGN KEY (prepayment_account_id) REFERENCES account (id),
                ADD FOREIGN KEY (reminder_ladder_id) REFERENCES reminder_ladder (id)
            SQL
            ,
        );
        $this->addSql(
            <<<'SQL'
            CREATE TABLE party_bank (id INT NOT NULL AUTO_INCREMENT PRIMARY KEY, party_id INT NOT NULL, label VARCHAR(60) NOT NULL,
                iban VARCHAR(40) NOT NULL, bic VARCHAR(15) NOT NULL, routing_number VARCHAR(20) NOT NULL,
                account_number VARCHAR(40) NOT NULL, changed_by_id INT NOT NULL, confirmed TINYINT(1) NOT NULL DEFAULT 0,
                INDEX (party_id), FOREIGN KEY (party_id) REFERENCES party (id),
                FOREIGN KEY (changed_by_id) REFERENCES app_user (id))
            SQL.$end,
        );
        $this->addSql(
            'ALTER TABLE proposal_line ADD applied BIGINT NOT NULL DEFAULT 0, ADD withholding BIGINT NOT NULL DEFAULT 0',
        );
        $this->addSql('UPDATE proposal_line SET applied = open');
        $this->addSql('ALTER TABLE proposal_line ADD pay BIGINT AS (applied - discount - withholding) STORED');
        $this->addSql('ALTER TABLE document_line ADD allowance BIGINT NULL');
    }

    public function isTransactional(): bool
    {
        return false;
    }
}
