<?php

declare(strict_types=1);

namespace Nelbix\Migrations;

use Doctrine\DBAL\Schema\Schema;
use Doctrine\Migrations\AbstractMigration;

/** The first schema. Amounts are BIGINT minor units, rates and percents exact decimals; every list has its index. */
final class Version20261123000001 extends AbstractMigration
{
    public function getDescription(): string
    {
        return 'Companies, ledger, parties, documents, open items, settlements, proposals, checks';
    }

    public function up(Schema $schema): void
    {
        foreach (self::TABLES as $name => $columns) {
            $this->addSql(
                \sprintf(
                    'CREATE TABLE %s (%s) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_unicode_ci',
                    $name,
                    $columns,
                ),
            );
        }
    }

    public function down(Schema $schema): void
    {
        $this->addSql('SET FOREIGN_KEY_CHECKS = 0');
        foreach (array_keys(self::TABLES) as $name) {
            $this->addSql('DROP TABLE '.$name);
        }
        $this->addSql('SET FOREIGN_KEY_CHECKS = 1');
    }

    private const TABLES = [
        'sessions' => 'sess_id VARBINARY(128) NOT NULL PRIMARY KEY, sess_data BLOB NOT NULL, sess_lifetime INT UNSIGNED '.
            'NOT NULL, sess_time INT UNSIGNED NOT NULL, INDEX sess_lifetime_idx (sess_lifetime)',
        'cache_items' => 'item_id VARBINARY(255) NOT NULL PRIMARY KEY, item_data MEDIUMBLOB NOT NULL, item_lifetime INT '.
            'UNSIGNED NULL, item_time INT UNSIGNED NOT NULL',
        'company' => 'id INT NOT NULL AUTO_INCREMENT PRIMARY KEY, code VARCHAR(20) NOT NULL, name VARCHAR(120) NOT NULL, '.
            'base_currency CHAR(3) NOT NULL, books_day DATE NULL, address VARCHAR(255) NOT NULL, UNIQUE (code)',
        'setting' => 'company_id INT NOT NULL, name VARCHAR(40) NOT NULL, value VARCHAR(255) NOT NULL, PRIMARY KEY '.
            '(company_id, name), FOREIGN KEY (company_id) REFERENCES company (id)',
        'app_user' => 'id INT NOT NULL AUTO_INCREMENT PRIMARY KEY, username VARCHAR(60) NOT NULL, name VARCHAR(120) NOT '.
            'NULL, password_hash VARCHAR(255) NOT NULL, single_keys TINYINT(1) NOT NULL DEFAULT 1, retired '.
            'TINYINT(1) NOT NULL DEFAULT 0, UNIQUE (username)',
        'membership' => 'id INT NOT NULL AUTO_INCREMENT PRIMARY KEY, user_id INT NOT NULL, company_id INT NOT NULL, role '.
            'VARCHAR(20) NOT NULL, UNIQUE (user_id, company_id, role), FOREIGN KEY (user_id) REFERENCES app_user '.
            '(id), FOREIGN KEY (company_id) REFERENCES company (id)',
        'number_sequence' => 'company_id INT NOT NULL, name VARCHAR(30) NOT NULL, next_value BIGINT NOT NULL, PRIMARY KEY '.
            '(company_id, name)',
        'account' => 'id INT NOT NULL AUTO_INCREMENT PRIMARY KEY, company_id INT NOT NULL, number VARCHAR(20) NOT NULL, '.
            'name VARCHAR(120) NOT NULL, type VARCHAR(10) NOT NULL, role VARCHAR(30) NULL, currency CHAR(3) '.
            'NULL, retired TINYINT(1) NOT NULL DEFAULT 0, UNIQUE (company_id, number), INDEX (company_id, role), '.
            'FOREIGN KEY (company_id) REFERENCES company (id)',
        'analysis_code' => 'id INT NOT NULL AUTO_INCREMENT PRIMARY KEY, company_id INT NOT NULL, kind VARCHAR(12) NOT NULL, '.
            'code VARCHAR(20) NOT NULL, name VARCHAR(120) NOT NULL, retired TINYINT(1) NOT NULL DEFAULT 0, '.
            'UNIQUE (company_id, kind, code), FOREIGN KEY (company_id) REFERENCES company (id)',
        'period' => 'id INT NOT NULL AUTO_INCREMENT PRIMARY KEY, company_id INT NOT NULL, year SMALLINT NOT NULL, number '.
            'TINYINT NOT NULL, first_day DATE NOT NULL, last_day DATE NOT NULL, ledger_locked TINYINT(1) NOT '.
            'NULL DEFAULT 0, payables_locked TINYINT(1) NOT NULL DEFAULT 0, receivables_locked TINYINT(1) NOT '.
            'NULL DEFAULT 0, UNIQUE (company_id, first_day), FOREIGN KEY (company_id) REFERENCES company (id)',
        'payment_term' => 'id INT NOT NULL AUTO_INCREMENT PRIMARY KEY, company_id INT NOT NULL, code VARCHAR(20) NOT NULL, '.
            'text VARCHAR(160) NOT NULL, used_by VARCHAR(10) NOT NULL, spec LONGTEXT NOT NULL, retired '.
            'TINYINT(1) NOT NULL DEFAULT 0, UNIQUE (company_id, code), FOREIGN KEY (company_id) REFERENCES '.
            'company (id)',
        'tax_code' => 'id INT NOT NULL AUTO_INCREMENT PRIMARY KEY, company_id INT NOT NULL, account_id INT NOT NULL, '.
            'reverse_account_id INT NULL, code VARCHAR(20) NOT NULL, text VARCHAR(160) NOT NULL, rate '.
            'DECIMAL(9,6) NOT NULL, used_by VARCHAR(10) NOT NULL, inclusive TINYINT(1) NOT NULL, '.
            'recoverable_percent DECIMAL(9,6) NOT NULL, discount_corrects_tax TINYINT(1) NOT NULL, retired '.
            'TINYINT(1) NOT NULL DEFAULT 0, UNIQUE (company_id, code), FOREIGN KEY (account_id) REFERENCES '.
            'account (id), FOREIGN KEY (reverse_account_id) REFERENCES account (id)',
        'exchange_rate' => 'id INT NOT NULL AUTO_INCREMENT PRIMARY KEY, company_id INT NOT NULL, valid_on DATE NOT NULL, '.
            'from_currency CHAR(3) NOT NULL, to_currency CHAR(3) NOT NULL, rate DECIMAL(20,10) NOT NULL, UNIQUE '.
            '(company_id, from_currency, to_currency, valid_on), FOREIGN KEY (company_id) REFERENCES company (id)',
        'bank_account' => 'id INT NOT NULL AUTO_INCREMENT PRIMARY KEY, company_id INT NOT NULL, account_id INT NOT NULL, code '.
            'VARCHAR(20) NOT NULL, name VARCHAR(120) NOT NULL, currency CHAR(3) NOT NULL, retired TINYINT(1) NOT '.
            'NULL DEFAULT 0, UNIQUE (company_id, code), FOREIGN KEY (account_id) REFERENCES account (id)',
        'check_book' => 'id INT NOT NULL AUTO_INCREMENT PRIMARY KEY, bank_account_id INT NOT NULL, name VARCHAR(60) NOT '.
            'NULL, first_number BIGINT NOT NULL, next_number BIGINT NOT NULL, UNIQUE (bank_account_id, name), '.
            'FOREIGN KEY (bank_account_id) REFERENCES bank_account (id)',
        'party' => 'id INT NOT NULL AUTO_INCREMENT PRIMARY KEY, company_id INT NOT NULL, side VARCHAR(12) NOT NULL, '.
            'code VARCHAR(20) NOT NULL, name VARCHAR(120) NOT NULL, currency CHAR(3) NULL, term_id INT NULL, '.
            'default_account_id INT NULL, linked_party_id INT NULL, method VARCHAR(10) NOT NULL, if_late '.
            'VARCHAR(12) NOT NULL, separate_payments TINYINT(1) NOT NULL, payment_stop VARCHAR(255) NULL, '.
            'tax_number VARCHAR(40) NOT NULL, street VARCHAR(160) NOT NULL, city VARCHAR(120) NOT NULL, country '.
            'VARCHAR(60) NOT NULL, email VARCHAR(160) NOT NULL, credit_limit BIGINT NULL, iban VARCHAR(40) NOT '.
            'NULL, bic VARCHAR(15) NOT NULL, routing_number VARCHAR(20) NOT NULL, account_number VARCHAR(40) NOT '.
            'NULL, bank_changed_by_id INT NULL, bank_confirmed TINYINT(1) NOT NULL, retired TINYINT(1) NOT NULL '.
            'DEFAULT 0, last_used_at DATETIME NULL, version INT NOT NULL DEFAULT 1, UNIQUE (company_id, side, '.
            'code), INDEX (company_id, side, name), FOREIGN KEY (company_id) REFERENCES company (id), FOREIGN '.
            'KEY (term_id) REFERENCES payment_term (id), FOREIGN KEY (default_account_id) REFERENCES account '.
            '(id), FOREIGN KEY (linked_party_id) REFERENCES party (id)',
        'document' => 'id INT NOT NULL AUTO_INCREMENT PRIMARY KEY, company_id INT NOT NULL, side VARCHAR(12) NOT NULL, '.
            'kind VARCHAR(15) NOT NULL, state VARCHAR(10) NOT NULL, number VARCHAR(30) NULL, their_number '.
            'VARCHAR(60) NOT NULL, their_key VARCHAR(60) NOT NULL, live_key VARCHAR(60) NULL, party_id INT NULL, '.
            'document_date DATE NULL, posting_date DATE NULL, due_date DATE NULL, start_date DATE NULL, term_id '.
            'INT NULL, currency CHAR(3) NOT NULL, rate DECIMAL(20,10) NOT NULL, net BIGINT NOT NULL, tax BIGINT '.
            'NOT NULL, total BIGINT NOT NULL, total_base BIGINT NOT NULL, discount_base BIGINT NOT NULL, '.
            'description VARCHAR(255) NOT NULL, bank_account_id INT NULL, bank_base BIGINT NOT NULL, reference '.
            'VARCHAR(120) NOT NULL, method VARCHAR(10) NOT NULL, held_reason VARCHAR(255) NULL, approval '.
            'VARCHAR(10) NOT NULL, reverses_id INT NULL, reversed_by_id INT NULL, proposal_id INT NULL, '.
            'draft_input LONGTEXT NULL, idempotency_key VARCHAR(64) NULL, created_by_id INT NOT NULL, created_at '.
            'DATETIME NOT NULL, posted_at DATETIME NULL, version INT NOT NULL DEFAULT 1, UNIQUE (company_id, '.
            'number), UNIQUE (company_id, side, party_id, kind, live_key), UNIQUE (company_id, idempotency_key), '.
            'INDEX list_idx (company_id, side, state, posting_date, id), INDEX (company_id, party_id, '.
            'their_key), INDEX (company_id, party_id, total, document_date), FOREIGN KEY (company_id) REFERENCES '.
            'company (id), FOREIGN KEY (party_id) REFERENCES party (id), FOREIGN KEY (term_id) REFERENCES '.
            'payment_term (id), FOREIGN KEY (bank_account_id) REFERENCES bank_account (id), FOREIGN KEY '.
            '(reverses_id) REFERENCES document (id), FOREIGN KEY (reversed_by_id) REFERENCES document (id), '.
            'FOREIGN KEY (created_by_id) REFERENCES app_user (id)',
        'document_line' => 'id INT NOT NULL AUTO_INCREMENT PRIMARY KEY, document_id INT NOT NULL, position SMALLINT NOT NULL, '.
            'account_id INT NOT NULL, amount BIGINT NOT NULL, net BIGINT NOT NULL, tax_code_id INT NULL, text '.
            'VARCHAR(255) NOT NULL, cost_center_id INT NULL, department_id INT NULL, project_id INT NULL, UNIQUE '.
            '(document_id, position), FOREIGN KEY (document_id) REFERENCES document (id), FOREIGN KEY '.
            '(account_id) REFERENCES account (id), FOREIGN KEY (tax_code_id) REFERENCES tax_code (id), FOREIGN '.
            'KEY (cost_center_id) REFERENCES analysis_code (id), FOREIGN KEY (department_id) REFERENCES '.
            'analysis_code (id), FOREIGN KEY (project_id) REFERENCES analysis_code (id)',
        'document_tax' => 'id INT NOT NULL AUTO_INCREMENT PRIMARY KEY, document_id INT NOT NULL, tax_code_id INT NOT NULL, net '.
            'BIGINT NOT NULL, tax BIGINT NOT NULL, recoverable BIGINT NOT NULL, UNIQUE (document_id, '.
            'tax_code_id), FOREIGN KEY (document_id) REFERENCES document (id), FOREIGN KEY (tax_code_id) '.
            'REFERENCES tax_code (id)',
        'open_item' => 'id INT NOT NULL AUTO_INCREMENT PRIMARY KEY, company_id INT NOT NULL, side VARCHAR(12) NOT NULL, '.
            'party_id INT NOT NULL, document_id INT NOT NULL, part SMALLINT NOT NULL, kind VARCHAR(15) NOT NULL, '.
            'number VARCHAR(34) NOT NULL, account_id INT NOT NULL, currency CHAR(3) NOT NULL, original BIGINT '.
            'NOT NULL, original_base BIGINT NOT NULL, open BIGINT NOT NULL, open_base BIGINT NOT NULL, '.
            'discount_base BIGINT NOT NULL, grace_days SMALLINT NOT NULL, document_date DATE NOT NULL, '.
            'posting_date DATE NOT NULL, due_date DATE NOT NULL, last_moved_on DATE NOT NULL, reserved_by_id INT '.
            'NULL, UNIQUE (document_id, part, account_id), INDEX open_idx (company_id, side, open, due_date), '.
            'INDEX party_idx (party_id, open, due_date), INDEX as_of_idx (company_id, side, posting_date, '.
            'last_moved_on), INDEX account_idx (account_id, posting_date), INDEX (company_id, number), FOREIGN '.
            'KEY (company_id) REFERENCES company (id), FOREIGN KEY (party_id) REFERENCES party (id), FOREIGN KEY '.
            '(document_id) REFERENCES document (id), FOREIGN KEY (account_id) REFERENCES account (id)',
        'item_discount' => 'id INT NOT NULL AUTO_INCREMENT PRIMARY KEY, item_id INT NOT NULL, through DATE NOT NULL, percent '.
            'DECIMAL(9,6) NOT NULL, amount BIGINT NOT NULL, INDEX (item_id, through), FOREIGN KEY (item_id) '.
            'REFERENCES open_item (id)',
        'settlement' => 'id INT NOT NULL AUTO_INCREMENT PRIMARY KEY, company_id INT NOT NULL, side VARCHAR(12) NOT NULL, '.
            'party_id INT NOT NULL, currency CHAR(3) NOT NULL, settled_on DATE NOT NULL, rate DECIMAL(20,10) NOT '.
            'NULL, document_id INT NULL, exchange BIGINT NOT NULL, undone_on DATE NULL, undone_by_id INT NULL, '.
            'undone_at DATETIME NULL, created_by_id INT NOT NULL, created_at DATETIME NOT NULL, INDEX '.
            '(document_id), INDEX (company_id, settled_on), FOREIGN KEY (company_id) REFERENCES company (id), '.
            'FOREIGN KEY (party_id) REFERENCES party (id), FOREIGN KEY (document_id) REFERENCES document (id), '.
            'FOREIGN KEY (created_by_id) REFERENCES app_user (id)',
        'settlement_line' => 'id INT NOT NULL AUTO_INCREMENT PRIMARY KEY, settlement_id INT NOT NULL, item_id INT NOT NULL, '.
            'applied BIGINT NOT NULL, applied_base BIGINT NOT NULL, UNIQUE (settlement_id, item_id), INDEX '.
            '(item_id), FOREIGN KEY (settlement_id) REFERENCES settlement (id), FOREIGN KEY (item_id) REFERENCES '.
            'open_item (id)',
        'settlement_adjustment' => 'id INT NOT NULL AUTO_INCREMENT PRIMARY KEY, settlement_id INT NOT NULL, item_id INT NOT NULL, kind '.
            'VARCHAR(12) NOT NULL, amount BIGINT NOT NULL, amount_base BIGINT NOT NULL, account_id INT NOT NULL, '.
            'INDEX (settlement_id), FOREIGN KEY (settlement_id) REFERENCES settlement (id), FOREIGN KEY '.
            '(item_id) REFERENCES open_item (id), FOREIGN KEY (account_id) REFERENCES account (id)',
        'journal_entry' => 'id INT NOT NULL AUTO_INCREMENT PRIMARY KEY, company_id INT NOT NULL, number VARCHAR(30) NOT NULL, '.
            'year SMALLINT NOT NULL, sequence INT NOT NULL, posting_date DATE NOT NULL, currency CHAR(3) NOT '.
            'NULL, text VARCHAR(255) NOT NULL, document_id INT NULL, settlement_id INT NULL, reverses_id INT '.
            'NULL, bypass TINYINT(1) NOT NULL, created_by_id INT NOT NULL, created_at DATETIME NOT NULL, UNIQUE '.
            '(company_id, number), UNIQUE (company_id, year, sequence), UNIQUE (reverses_id), INDEX '.
            '(document_id), INDEX (settlement_id), INDEX (company_id, posting_date), FOREIGN KEY (company_id) '.
            'REFERENCES company (id), FOREIGN KEY (document_id) REFERENCES document (id), FOREIGN KEY '.
            '(settlement_id) REFERENCES settlement (id), FOREIGN KEY (reverses_id) REFERENCES journal_entry '.
            '(id), FOREIGN KEY (created_by_id) REFERENCES app_user (id)',
        'journal_line' => 'id INT NOT NULL AUTO_INCREMENT PRIMARY KEY, entry_id INT NOT NULL, position SMALLINT NOT NULL, '.
            'account_id INT NOT NULL, posting_date DATE NOT NULL, base BIGINT NOT NULL, amount BIGINT NOT NULL, '.
            'text VARCHAR(255) NOT NULL, party_id INT NULL, cost_center_id INT NULL, department_id INT NULL, '.
            'project_id INT NULL, UNIQUE (entry_id, position), INDEX balance_idx (account_id, posting_date, '.
            'base), FOREIGN KEY (entry_id) REFERENCES journal_entry (id), FOREIGN KEY (account_id) REFERENCES '.
            'account (id), FOREIGN KEY (party_id) REFERENCES party (id), FOREIGN KEY (cost_center_id) REFERENCES '.
            'analysis_code (id), FOREIGN KEY (department_id) REFERENCES analysis_code (id), FOREIGN KEY '.
            '(project_id) REFERENCES analysis_code (id)',
        'proposal' => 'id INT NOT NULL AUTO_INCREMENT PRIMARY KEY, company_id INT NOT NULL, number VARCHAR(30) NOT NULL, '.
            'state VARCHAR(10) NOT NULL, pay_date DATE NOT NULL, due_through DATE NOT NULL, again_on DATE NOT '.
            'NULL, bank_account_id INT NOT NULL, method VARCHAR(10) NOT NULL, criteria LONGTEXT NOT NULL, '.
            'refused_reason VARCHAR(255) NULL, created_by_id INT NOT NULL, created_at DATETIME NOT NULL, '.
            'decided_by_id INT NULL, decided_at DATETIME NULL, version INT NOT NULL DEFAULT 1, idempotency_key '.
            'VARCHAR(64) NULL, UNIQUE (company_id, number), UNIQUE (company_id, idempotency_key), INDEX '.
            '(company_id, state), FOREIGN KEY (company_id) REFERENCES company (id), FOREIGN KEY '.
            '(bank_account_id) REFERENCES bank_account (id), FOREIGN KEY (created_by_id) REFERENCES app_user (id)',
        'proposal_line' => 'id INT NOT NULL AUTO_INCREMENT PRIMARY KEY, proposal_id INT NOT NULL, item_id INT NOT NULL, payment '.
            'SMALLINT NULL, is_in TINYINT(1) NOT NULL, dropped TINYINT(1) NOT NULL, reason VARCHAR(20) NOT NULL, '.
            'open BIGINT NOT NULL, discount BIGINT NOT NULL, stake BIGINT NOT NULL, UNIQUE (proposal_id, '.
            'item_id), FOREIGN KEY (proposal_id) REFERENCES proposal (id), FOREIGN KEY (item_id) REFERENCES '.
            'open_item (id)',
        'bank_check' => 'id INT NOT NULL AUTO_INCREMENT PRIMARY KEY, check_book_id INT NOT NULL, number BIGINT NOT NULL, '.
            'state VARCHAR(10) NOT NULL, proposal_id INT NULL, payment SMALLINT NULL, party_id INT NULL, '.
            'document_id INT NULL, amount BIGINT NOT NULL, check_date DATE NULL, reason VARCHAR(255) NOT NULL, '.
            'UNIQUE (check_book_id, number), INDEX (proposal_id), INDEX (document_id), FOREIGN KEY '.
            '(check_book_id) REFERENCES check_book (id), FOREIGN KEY (proposal_id) REFERENCES proposal (id), '.
            'FOREIGN KEY (party_id) REFERENCES party (id), FOREIGN KEY (document_id) REFERENCES document (id)',
        'history' => 'id BIGINT NOT NULL AUTO_INCREMENT PRIMARY KEY, company_id INT NOT NULL, subject VARCHAR(30) NOT '.
            'NULL, subject_id INT NOT NULL, action VARCHAR(60) NOT NULL, detail VARCHAR(1000) NOT NULL, user_id '.
            'INT NOT NULL, happened_at DATETIME NOT NULL, INDEX (company_id, subject, subject_id), FOREIGN KEY '.
            '(company_id) REFERENCES company (id), FOREIGN KEY (user_id) REFERENCES app_user (id)',
    ];
}
