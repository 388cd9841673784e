<?php

declare(strict_types=1);

namespace Nelbix\Migrations;

use Doctrine\DBAL\Schema\Schema;
use Doctrine\Migrations\AbstractMigration;

/** Payments of a proposal with their method, destination and note; pay habits; approval limits; bank files and what the printer took. */
final class Version20261123000013 extends AbstractMigration
{
    public function getDescription(): string
    {
        return 'Payments of a run by several methods, pay habits, approval limits, bank files';
    }

    public function up(Schema $schema): void
    {
        $end = ' ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_unicode_ci';
        $this->addSql(
            <<<SQL
            CREATE TABLE proposal_payment (id INT NOT NULL AUTO_INCREMENT PRIMARY KEY, proposal_id INT NOT NULL,
                payment INT NOT NULL, party_id INT NOT NULL, pay_by VARCHAR(10) NOT NULL, party_bank_id INT NULL,
                reference VARCHAR(60) NOT NULL DEFAULT '', note VARCHAR(255) NOT NULL DEFAULT '', document_id INT NULL,
                UNIQUE (proposal_id, payment), INDEX (document_id), FOREIGN KEY (proposal_id) REFERENCES proposal (id),
                FOREIGN KEY (party_id) REFERENCES party (id), FOREIGN KEY (party_bank_id) REFERENCES party_bank (id)
                ON DELETE SET NULL, FOREIGN KEY (document_id) REFERENCES document (id))
            SQL.$end,
        );
        $this->addSql(
            <<<SQL
            INSERT INTO proposal_payment (proposal_id, payment, party_id, pay_by, document_id)
            SELECT l.proposal_id, l.payment, MAX(i.party_id), 'check',
                (SELECT MAX(k.document_id) FROM bank_check k WHERE k.proposal_id = l.proposal_id AND k.payment = l.payment)
            FROM proposal_line l
            JOIN open_item i ON i.id = l.item_id
            WHERE l.payment IS NOT NULL
            GROUP BY l.proposal_id, l.payment
            SQL
            ,
        );
        $this->addSql(
            'ALTER TABLE proposal_line ADD added TINYINT(1) NOT NULL DEFAULT 0, ADD offered BIGINT NOT NULL DEFAULT 0',
        );
        $this->addSql('UPDATE proposal_line SET offered = discount');
        $this->addSql("ALTER TABLE proposal ADD accepted VARCHAR(64) NOT NULL DEFAULT ''");
        $this->addSql('ALTER TABLE membership ADD approval_limit BIGINT NULL');
        $this->addSql(
            <<<'SQL'
            CREATE TABLE pay_habit (id INT NOT NULL AUTO_INCREMENT PRIMARY KEY, company_id INT NOT NULL, name VARCHAR(60) NOT NULL,
                criteria LONGTEXT NOT NULL, shared TINYINT(1) NOT NULL, created_by_id INT NOT NULL,
                UNIQUE (company_id, created_by_id, name), FOREIGN KEY (company_id) REFERENCES company (id),
                FOREIGN KEY (created_by_id) REFERENCES app_user (id))
            SQL.$end,
        );
        $this->addSql(
            <<<'SQL'
            CREATE TABLE bank_file (id INT NOT NULL AUTO_INCREMENT PRIMARY KEY, company_id INT NOT NULL,
                bank_account_id INT NOT NULL, proposal_id INT NULL, number VARCHAR(30) NOT NULL, format VARCHAR(10) NOT NULL,
                pay_date DATE NOT NULL, payments INT NOT NULL, amount BIGINT NOT NULL, content LONGBLOB NOT NULL,
                digest CHAR(64) NOT NULL, created_by_id INT NOT NULL, created_at DATETIME NOT NULL, sent_at DATETIME NULL,
                sent_by_id INT NULL, answer LONGTEXT NULL, UNIQUE (company_id, number), INDEX (proposal_id),
                FOREIGN KEY (company_id) REFERENCES company (id), FOREIGN KEY (bank_account_id) REFERENCES bank_account (id),
                FOREIGN KEY (proposal_id) REFERENCES proposal (id), FOREIGN KEY (created_by_id) REFERENCES app_user (id),
                FOREIGN KEY (sent_by_id) REFERENCES app_user (id))
            SQL.$end,
        );
        $this->addSql(
            <<<SQL
            CREATE TABLE bank_file_line (id INT NOT NULL AUTO_INCREMENT PRIMARY KEY, bank_file_id INT NOT NULL,
                document_id INT NOT NULL, end_to_end VARCHAR(35) NOT NULL, amount BIGINT NOT NULL,
                state VARCHAR(10) NOT NULL DEFAULT 'made', reason VARCHAR(255) NOT NULL DEFAULT '', UNIQUE (document_id),
                INDEX (bank_file_id), FOREIGN KEY (bank_file_id) REFERENCES bank_file (id),
                FOREIGN KEY (document_id) REFERENCES document (id))
            SQL.$end,
        );
        $this->addSql(
            <<<SQL
            ALTER TABLE bank_account ADD routing_number VARCHAR(20) NOT NULL DEFAULT '',
                ADD account_number VARCHAR(40) NOT NULL DEFAULT '', ADD company_number VARCHAR(20) NOT NULL DEFAULT '',
                ADD balanced TINYINT(1) NOT NULL DEFAULT 0
            SQL
            ,
        );
        $this->addSql(
            'ALTER TABLE check_book ADD offset_x SMALLINT NOT NULL DEFAULT 0, ADD offset_y SMALLINT NOT NULL DEFAULT 0',
        );
    }

    public function isTransactional(): bool
    {
        return false;
    }
}
