<?php

declare(strict_types=1);

namespace Nelbix\Migrations;

use Doctrine\DBAL\Schema\Schema;
use Doctrine\Migrations\AbstractMigration;

/** Statements of banks, what their lines were placed on, the rules that read them, and reconciliations. */
final class Version20261126000022 extends AbstractMigration
{
    public function getDescription(): string
    {
        return 'Bank statements';
    }

    public function up(Schema $schema): void
    {
        $end = ') DEFAULT CHARACTER SET utf8mb4 COLLATE utf8mb4_unicode_ci ENGINE = InnoDB';
        $this->addSql(
            <<<SQL
            CREATE TABLE bank_statement (
                id INT AUTO_INCREMENT PRIMARY KEY,
                company_id INT NOT NULL,
                bank_account_id INT NOT NULL,
                number VARCHAR(60) NOT NULL,
                format VARCHAR(10) NOT NULL,
                digest CHAR(64) NOT NULL,
                file_id INT DEFAULT NULL,
                from_day DATE NOT NULL,
                to_day DATE NOT NULL,
                opening BIGINT NOT NULL,
                closing BIGINT NOT NULL,
                gap BIGINT NOT NULL,
                taken_by_id INT NOT NULL,
                taken_at DATETIME NOT NULL,
                INDEX account_idx (bank_account_id, to_day),
                INDEX digest_idx (bank_account_id, digest),
                FOREIGN KEY (company_id) REFERENCES company (id),
                FOREIGN KEY (bank_account_id) REFERENCES bank_account (id)
            $end
            SQL
            ,
        );
        $this->addSql(
            <<<SQL
            CREATE TABLE statement_line (
                id INT AUTO_INCREMENT PRIMARY KEY,
                statement_id INT NOT NULL,
                company_id INT NOT NULL,
                bank_account_id INT NOT NULL,
                place INT NOT NULL,
                day DATE NOT NULL,
                value_day DATE DEFAULT NULL,
                amount BIGINT NOT NULL,
                text VARCHAR(500) NOT NULL,
                reference VARCHAR(120) NOT NULL,
                bank_reference VARCHAR(120) NOT NULL,
                party VARCHAR(140) NOT NULL,
                account VARCHAR(60) NOT NULL,
                check_number VARCHAR(20) NOT NULL,
                reversal TINYINT(1) NOT NULL,
                waiting BIGINT NOT NULL,
                INDEX day_idx (bank_account_id, day, id),
                INDEX waiting_idx (company_id, waiting),
                UNIQUE INDEX place_idx (statement_id, place),
                FOREIGN KEY (statement_id) REFERENCES bank_statement (id),
                FOREIGN KEY (bank_account_id) REFERENCES bank_account (id)
            $end
            SQL
            ,
        );
        $this->addSql(
            <<<SQL
            CREATE TABLE reading_rule (
                id INT AUTO_INCREMENT PRIMARY KEY,
                company_id INT NOT NULL,
                bank_account_id INT DEFAULT NULL,
                place INT NOT NULL,
                name VARCHAR(120) NOT NULL,
                words VARCHAR(255) NOT NULL,
                direction SMALLINT NOT NULL,
                least BIGINT DEFAULT NULL,
                most BIGINT DEFAULT NULL,
                parts JSON NOT NULL,
                taken INT NOT NULL,
                passed_over INT NOT NULL,
                retired TINYINT(1) NOT NULL,
                version INT NOT NULL DEFAULT 1,
                INDEX place_idx (company_id, place),
                FOREIGN KEY (company_id) REFERENCES company (id),
                FOREIGN KEY (bank_account_id) REFERENCES bank_account (id)
            $end
            SQL
            ,
        );
        $this->addSql(
            <<<SQL
            CREATE TABLE statement_part (
                id INT AUTO_INCREMENT PRIMARY KEY,
                line_id INT NOT NULL,
                company_id INT NOT NULL,
                bank_account_id INT NOT NULL,
                kind VARCHAR(10) NOT NULL,
                amount BIGINT NOT NULL,
                entry_id INT DEFAULT NULL,
                document_id INT DEFAULT NULL,
                own TINYINT(1) NOT NULL,
                why VARCHAR(255) NOT NULL,
                rule_id INT DEFAULT NULL,
                placed_by_id INT NOT NULL,
                placed_at DATETIME NOT NULL,
                undone_by_id INT DEFAULT NULL,
                undone_at DATETIME DEFAULT NULL,
                INDEX line_idx (line_id),
                INDEX entry_idx (entry_id, bank_account_id),
                INDEX document_idx (document_id),
                FOREIGN KEY (line_id) REFERENCES statement_line (id),
                FOREIGN KEY (entry_id) REFERENCES journal_entry (id),
                FOREIGN KEY (document_id) REFERENCES document (id),
                FOREIGN KEY (rule_id) REFERENCES reading_rule (id)
            $end
            SQL
            ,
        );
        $this->addSql(
            <<<SQL
            CREATE TABLE statement_mapping (
                id INT AUTO_INCREMENT PRIMARY KEY,
                company_id INT NOT NULL,
                bank_account_id INT NOT NULL,
                mapping JSON NOT NULL,
                UNIQUE INDEX account_idx (bank_account_id),
                FOREIGN KEY (company_id) REFERENCES company (id),
                FOREIGN KEY (bank_account_id) REFERENCES bank_account (id)
            $end
            SQL
            ,
        );
        $this->addSql(
            <<<SQL
            CREATE TABLE reconciliation (
                id INT AUTO_INCREMENT PRIMARY KEY,
                company_id INT NOT NULL,
                bank_account_id INT NOT NULL,
                as_of DATE NOT NULL,
                bank_balance BIGINT NOT NULL,
                ledger_balance BIGINT NOT NULL,
                frozen JSON NOT NULL,
                signed_by_id INT NOT NULL,
                signed_at DATETIME NOT NULL,
                withdrawn_by_id INT DEFAULT NULL,
                withdrawn_at DATETIME DEFAULT NULL,
                withdrawn_why VARCHAR(255) NOT NULL,
                INDEX account_idx (bank_account_id, as_of),
                FOREIGN KEY (company_id) REFERENCES company (id),
                FOREIGN KEY (bank_account_id) REFERENCES bank_account (id)
            $end
            SQL
            ,
        );
    }

    public function down(Schema $schema): void
    {
        foreach (
            [
                'reconciliation',
                'statement_mapping',
                'statement_part',
                'reading_rule',
                'statement_line',
                'bank_statement',
            ] as $table
        ) {
            $this->addSql('DROP TABLE '.$table);
        }
    }
}
