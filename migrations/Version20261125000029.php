<?php

declare(strict_types=1);

namespace Nelbix\Migrations;

use Doctrine\DBAL\Schema\Schema;
use Doctrine\Migrations\AbstractMigration;

/** Whom an approved run pays, as its approver saw it; and the account a party had before a change that nobody confirmed yet. */
final class Version20261125000029 extends AbstractMigration
{
    public function getDescription(): string
    {
        return 'What was approved stays what it was';
    }

    public function up(Schema $schema): void
    {
        $this->addSql(
            <<<'SQL'
            CREATE TABLE approved_payee (
                proposal_id INT NOT NULL, payment INT NOT NULL, name VARCHAR(160) NOT NULL, street VARCHAR(160) NOT NULL,
                city VARCHAR(120) NOT NULL, country VARCHAR(60) NOT NULL, iban VARCHAR(40) NOT NULL, bic VARCHAR(20) NOT NULL,
                routing_number VARCHAR(20) NOT NULL, account_number VARCHAR(40) NOT NULL, party_name VARCHAR(160) NOT NULL,
                party_country VARCHAR(60) NOT NULL, PRIMARY KEY (proposal_id, payment)
            )
            SQL
            ,
        );
        // a file is taken over once, unless somebody means it again; of two at once one is first
        $this->addSql(
            <<<'SQL'
            CREATE TABLE file_taken (
                id INT AUTO_INCREMENT NOT NULL, company_id INT NOT NULL, kind VARCHAR(40) NOT NULL, digest BINARY(32) NOT NULL,
                round INT NOT NULL, records INT DEFAULT NULL, taken_by_id INT NOT NULL, taken_at DATETIME NOT NULL,
                UNIQUE (company_id, digest, kind, round), PRIMARY KEY (id)
            )
            SQL
            ,
        );
        $this->addSql("ALTER TABLE party ADD bank_before VARCHAR(160) DEFAULT '' NOT NULL");
    }
}
