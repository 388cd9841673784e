<?php

declare(strict_types=1);

namespace Nelbix\Migrations;

use Doctrine\DBAL\Schema\Schema;
use Doctrine\Migrations\AbstractMigration;

/** Pairing sets, their rules, rows, pairs and runs. */
final class Version20261126000023 extends AbstractMigration
{
    public function getDescription(): string
    {
        return 'Pairing';
    }

    public function up(Schema $schema): void
    {
        $end = ') DEFAULT CHARACTER SET utf8mb4 COLLATE utf8mb4_unicode_ci ENGINE = InnoDB';
        $this->addSql(
            <<<SQL
            CREATE TABLE pairing_set (
                id INT AUTO_INCREMENT PRIMARY KEY,
                company_id INT NOT NULL,
                other_company_id INT DEFAULT NULL,
                name VARCHAR(120) NOT NULL,
                sister_key VARCHAR(40) DEFAULT NULL,
                left_source JSON NOT NULL,
                right_source JSON NOT NULL,
                shared_fields JSON NOT NULL,
                currency CHAR(3) NOT NULL,
                turned VARCHAR(5) NOT NULL,
                amount_within BIGINT NOT NULL,
                percent_within NUMERIC(7, 3) DEFAULT NULL,
                days_within SMALLINT DEFAULT NULL,
                hand_within BIGINT NOT NULL,
                group_by_field VARCHAR(40) NOT NULL,
                adjusts VARCHAR(5) NOT NULL,
                shows_other TINYINT(1) NOT NULL,
                retired TINYINT(1) NOT NULL,
                created_by_id INT NOT NULL,
                version INT NOT NULL DEFAULT 1,
                UNIQUE INDEX sister_idx (sister_key),
                INDEX company_idx (company_id),
                INDEX other_idx (other_company_id),
                FOREIGN KEY (company_id) REFERENCES company (id),
                FOREIGN KEY (other_company_id) REFERENCES company (id)
            $end
            SQL
            ,
        );
        $this->addSql(
            <<<SQL
            CREATE TABLE pairing_rule (
                id INT AUTO_INCREMENT PRIMARY KEY,
                set_id INT NOT NULL,
                place INT NOT NULL,
                clauses JSON NOT NULL,
                switched_on TINYINT(1) NOT NULL,
                retired TINYINT(1) NOT NULL,
                version INT NOT NULL DEFAULT 1,
                INDEX set_idx (set_id, place),
                FOREIGN KEY (set_id) REFERENCES pairing_set (id)
            $end
            SQL
            ,
        );
        $this->addSql(
            <<<SQL
            CREATE TABLE pairing_run (
                id INT AUTO_INCREMENT PRIMARY KEY,
                set_id INT NOT NULL,
                company_id INT NOT NULL,
                state VARCHAR(10) NOT NULL,
                step INT NOT NULL,
                counts JSON NOT NULL,
                started_by_id INT NOT NULL,
                started_at DATETIME NOT NULL,
                ended_at DATETIME DEFAULT NULL,
                INDEX set_idx (set_id, id),
                FOREIGN KEY (set_id) REFERENCES pairing_set (id)
            $end
            SQL
            ,
        );
        $this->addSql(
            <<<SQL
            CREATE TABLE pairing_pair (
                id INT AUTO_INCREMENT PRIMARY KEY,
                set_id INT NOT NULL,
                run_id INT DEFAULT NULL,
                rule_id INT DEFAULT NULL,
                rule_number INT NOT NULL,
                state VARCHAR(10) NOT NULL,
                difference BIGINT NOT NULL,
                entry_id INT DEFAULT NULL,
                document_id INT DEFAULT NULL,
                made_by_id INT NOT NULL,
                made_at DATETIME NOT NULL,
                decided_by_id INT DEFAULT NULL,
                decided_at DATETIME DEFAULT NULL,
                INDEX set_idx (set_id, state),
                INDEX run_idx (run_id),
                FOREIGN KEY (set_id) REFERENCES pairing_set (id),
                FOREIGN KEY (run_id) REFERENCES pairing_run (id),
                FOREIGN KEY (rule_id) REFERENCES pairing_rule (id)
            $end
            SQL
            ,
        );
        $this->addSql(
            <<<SQL
            CREATE TABLE pairing_row (
                id INT AUTO_INCREMENT PRIMARY KEY,
                set_id INT NOT NULL,
                side VARCHAR(5) NOT NULL,
                source VARCHAR(40) NOT NULL,
                number VARCHAR(60) NOT NULL,
                amount BIGINT NOT NULL,
                base BIGINT DEFAULT NULL,
                dated DATE NOT NULL,
                fields JSON NOT NULL,
                document_id INT DEFAULT NULL,
                pair_id INT DEFAULT NULL,
                tied TINYINT(1) NOT NULL,
                gone TINYINT(1) NOT NULL,
                UNIQUE INDEX source_idx (set_id, side, source),
                INDEX pair_idx (pair_id),
                INDEX over_idx (set_id, pair_id, side),
                FOREIGN KEY (set_id) REFERENCES pairing_set (id),
                FOREIGN KEY (pair_id) REFERENCES pairing_pair (id)
            $end
            SQL
            ,
        );
    }

    public function down(Schema $schema): void
    {
        foreach (['pairing_row', 'pairing_pair', 'pairing_run', 'pairing_rule', 'pairing_set'] as $table) {
            $this->addSql('DROP TABLE '.$table);
        }
    }
}
