<?php

declare(strict_types=1);

namespace Nelbix\Migrations;

use Doctrine\DBAL\Schema\Schema;
use Doctrine\Migrations\AbstractMigration;

/** Prepayments are asked for by a request, and taxed when they come where the tax code says so. */
final class Version20261126000015 extends AbstractMigration
{
    public function getDescription(): string
    {
        return 'Requests for prepayments and their tax';
    }

    public function up(Schema $schema): void
    {
        $this->addSql('ALTER TABLE tax_code ADD taxes_prepayments TINYINT(1) NOT NULL DEFAULT 0');
        $this->addSql(
            "UPDATE account SET role = 'tax_on_customer_prepayments' WHERE number = '2155' AND name = 'Tax on customer prepayments' ".
                'AND role IS NULL',
        );
        $this->addSql(
            <<<'SQL'
            CREATE TABLE prepaid_tax (
                settlement_id INT NOT NULL,
                item_id INT NOT NULL,
                tax BIGINT NOT NULL,
                base BIGINT NOT NULL,
                PRIMARY KEY (settlement_id, item_id),
                INDEX item_idx (item_id),
                FOREIGN KEY (settlement_id) REFERENCES settlement (id),
                FOREIGN KEY (item_id) REFERENCES open_item (id)
            ) DEFAULT CHARACTER SET utf8mb4 COLLATE utf8mb4_unicode_ci ENGINE = InnoDB
            SQL
            ,
        );
        $this->addSql(
            <<<'SQL'
            CREATE TABLE prepayment_request (
                id INT AUTO_INCREMENT PRIMARY KEY,
                company_id INT NOT NULL,
                party_id INT NOT NULL,
                number VARCHAR(30) DEFAULT NULL,
                asked_on DATE NOT NULL,
                pay_by DATE NOT NULL,
                currency CHAR(3) NOT NULL,
                amount BIGINT NOT NULL,
                tax_code_id INT DEFAULT NULL,
                text VARCHAR(255) NOT NULL,
                document_id INT DEFAULT NULL,
                withdrawn_on DATE DEFAULT NULL,
                withdrawn_why VARCHAR(255) NOT NULL DEFAULT '',
                created_by_id INT NOT NULL,
                created_at DATETIME NOT NULL,
                UNIQUE INDEX number_uniq (company_id, number),
                INDEX party_idx (party_id),
                INDEX document_idx (document_id),
                FOREIGN KEY (company_id) REFERENCES company (id),
                FOREIGN KEY (party_id) REFERENCES party (id),
                FOREIGN KEY (tax_code_id) REFERENCES tax_code (id),
                FOREIGN KEY (document_id) REFERENCES document (id),
                FOREIGN KEY (created_by_id) REFERENCES app_user (id)
            ) DEFAULT CHARACTER SET utf8mb4 COLLATE utf8mb4_unicode_ci ENGINE = InnoDB
            SQL
            ,
        );
    }

    public function down(Schema $schema): void
    {
        $this->addSql('DROP TABLE prepayment_request');
        $this->addSql('DROP TABLE prepaid_tax');
        $this->addSql('ALTER TABLE tax_code DROP taxes_prepayments');
    }
}
