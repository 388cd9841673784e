<?php

declare(strict_types=1);

namespace Nelbix\Migrations;

use Doctrine\DBAL\Schema\Schema;
use Doctrine\Migrations\AbstractMigration;

/** People: links that set a password, where somebody is signed in, sign-ins, second factor, substitutes, reasons for duties. */
final class Version20261125000027 extends AbstractMigration
{
    public function getDescription(): string
    {
        return 'People, their sessions and their second factor';
    }

    public function up(Schema $schema): void
    {
        // names compare by bytes: a name that only looks alike is another
        $this->addSql(
            <<<'SQL'
            ALTER TABLE app_user
                MODIFY username VARCHAR(60) CHARACTER SET utf8mb4 COLLATE utf8mb4_bin NOT NULL,
                ADD email VARCHAR(190) DEFAULT '' NOT NULL,
                ADD second_factor VARCHAR(190) DEFAULT NULL,
                ADD second_factor_step BIGINT DEFAULT 0 NOT NULL
            SQL
            ,
        );
        $this->addSql("ALTER TABLE membership ADD duties_reason VARCHAR(255) DEFAULT '' NOT NULL");
        $this->addSql(
            <<<'SQL'
            CREATE TABLE presence (
                id INT AUTO_INCREMENT NOT NULL, user_id INT NOT NULL, begun_at DATETIME NOT NULL, seen_at DATETIME NOT NULL,
                ended_at DATETIME DEFAULT NULL, confirmed TINYINT(1) NOT NULL, address VARCHAR(45) NOT NULL, agent VARCHAR(190) NOT NULL,
                INDEX of_user (user_id, ended_at, seen_at), PRIMARY KEY (id)
            )
            SQL
            ,
        );
        $this->addSql(
            <<<'SQL'
            CREATE TABLE sign_in (
                id INT AUTO_INCREMENT NOT NULL, user_id INT DEFAULT NULL, name VARCHAR(60) NOT NULL, at DATETIME NOT NULL,
                what VARCHAR(30) NOT NULL, address VARCHAR(45) NOT NULL, agent VARCHAR(190) NOT NULL,
                INDEX of_user (user_id, id), PRIMARY KEY (id)
            )
            SQL
            ,
        );
        $this->addSql(
            <<<'SQL'
            CREATE TABLE personal_link (
                id INT AUTO_INCREMENT NOT NULL, user_id INT NOT NULL, token_hash BINARY(32) NOT NULL, expires_at DATETIME NOT NULL,
                used_at DATETIME DEFAULT NULL, UNIQUE (token_hash), INDEX of_user (user_id), PRIMARY KEY (id)
            )
            SQL
            ,
        );
        $this->addSql(
            <<<'SQL'
            CREATE TABLE recovery_code (
                user_id INT NOT NULL, code_hash BINARY(32) NOT NULL, used_at DATETIME DEFAULT NULL, PRIMARY KEY (user_id, code_hash)
            )
            SQL
            ,
        );
        $this->addSql(
            <<<'SQL'
            CREATE TABLE substitute (
                id INT AUTO_INCREMENT NOT NULL, company_id INT NOT NULL, absent_id INT NOT NULL, deputy_id INT NOT NULL,
                first_day DATE NOT NULL, last_day DATE NOT NULL, reason VARCHAR(255) NOT NULL, ended TINYINT(1) DEFAULT 0 NOT NULL,
                INDEX of_deputy (deputy_id, ended), INDEX of_company (company_id, ended), PRIMARY KEY (id)
            )
            SQL
            ,
        );
    }

    public function isTransactional(): bool
    {
        return false;
    }
}
