<?php

declare(strict_types=1);

namespace Nelbix\Migrations;

use Doctrine\DBAL\Schema\Schema;
use Doctrine\Migrations\AbstractMigration;

/** Receipts of unknown payers stand on an account of their own, whose only party is nobody; money has two amounts. */
final class Version20261126000007 extends AbstractMigration
{
    public function getDescription(): string
    {
        return 'Unidentified receipts, claims, reasons of what is given up, what reached the bank';
    }

    public function up(Schema $schema): void
    {
        $this->addSql('ALTER TABLE party ADD nobody TINYINT(1) NOT NULL DEFAULT 0');
        $this->addSql('ALTER TABLE document ADD bank_amount BIGINT NOT NULL DEFAULT 0 AFTER bank_base');
        $this->addSql(
            "ALTER TABLE settlement_adjustment MODIFY kind VARCHAR(15) NOT NULL, ADD reason VARCHAR(255) NOT NULL DEFAULT ''",
        );
        // an account of this name that somebody posted to by hand stays what it is; the role gets one of its own
        $this->addSql(
            <<<'SQL'
            UPDATE account a
            SET a.role = 'unidentified_receipts'
            WHERE a.number = '2170' AND a.name = 'Unidentified receipts' AND a.role IS NULL AND a.retired = 0
                AND NOT EXISTS (SELECT 1 FROM journal_line l WHERE l.account_id = a.id)
            SQL
            ,
        );
        $this->addSql(
            <<<'SQL'
            INSERT INTO account (company_id, number, name, type, role, retired)
            SELECT c.id, IF(EXISTS (SELECT 1 FROM account b WHERE b.company_id = c.id AND b.number = '2170'), '2179', '2170'),
                'Receipts not identified', 'liability', 'unidentified_receipts', 0
            FROM company c
            WHERE NOT EXISTS (SELECT 1 FROM account b WHERE b.company_id = c.id AND b.role = 'unidentified_receipts')
            SQL
            ,
        );
        $this->addSql(
            <<<'SQL'
            INSERT INTO party (company_id, side, code, name, method, if_late, separate_payments, tax_number, street, city, country,
                email, iban, bic, routing_number, account_number, bank_confirmed, retired, nobody, control_account_id)
            SELECT a.company_id, 'receivables', '?', 'Payer not known yet', 'transfer', 'can_wait', 0, '', '', '', '', '', '', '', '', '',
                1, 1, 1, a.id
            FROM account a
            WHERE a.role = 'unidentified_receipts'
            SQL
            ,
        );
        $this->addSql(
            <<<'SQL'
            CREATE TABLE claim (
                id INT AUTO_INCREMENT PRIMARY KEY,
                company_id INT NOT NULL,
                document_id INT NOT NULL,
                item_id INT NOT NULL,
                of_item_id INT NOT NULL,
                kind VARCHAR(12) NOT NULL,
                text VARCHAR(255) NOT NULL,
                person_id INT DEFAULT NULL,
                follow_up_on DATE DEFAULT NULL,
                write_off_as VARCHAR(15) DEFAULT NULL,
                write_off_account_id INT DEFAULT NULL,
                state VARCHAR(10) NOT NULL,
                asked_by_id INT NOT NULL,
                asked_at DATETIME NOT NULL,
                decided_by_id INT DEFAULT NULL,
                decided_at DATETIME DEFAULT NULL,
                decided_why VARCHAR(255) NOT NULL DEFAULT '',
                version INT NOT NULL DEFAULT 1,
                UNIQUE (item_id),
                INDEX document_idx (document_id),
                INDEX waits_idx (company_id, state),
                INDEX person_idx (person_id, state),
                FOREIGN KEY (company_id) REFERENCES company (id),
                FOREIGN KEY (document_id) REFERENCES document (id),
                FOREIGN KEY (item_id) REFERENCES open_item (id),
                FOREIGN KEY (of_item_id) REFERENCES open_item (id),
                FOREIGN KEY (person_id) REFERENCES app_user (id),
                FOREIGN KEY (write_off_account_id) REFERENCES account (id),
                FOREIGN KEY (asked_by_id) REFERENCES app_user (id),
                FOREIGN KEY (decided_by_id) REFERENCES app_user (id)
            ) DEFAULT CHARACTER SET utf8mb4 COLLATE utf8mb4_unicode_ci ENGINE = InnoDB
            SQL
            ,
        );
    }
}
