<?php

declare(strict_types=1);

namespace Nelbix\Migrations;

use Doctrine\DBAL\Schema\Schema;
use Doctrine\Migrations\AbstractMigration;

/** Receipts of one pile, with the count and total that they are to come to. */
final class Version20261126000017 extends AbstractMigration
{
    public function getDescription(): string
    {
        return 'Batches of receipts';
    }

    public function up(Schema $schema): void
    {
        $this->addSql(
            <<<'SQL'
            CREATE TABLE receipt_batch (
                id INT AUTO_INCREMENT PRIMARY KEY,
                company_id INT NOT NULL,
                name VARCHAR(80) NOT NULL,
                posting_date DATE NOT NULL,
                bank_account_id INT NOT NULL,
                control_count INT DEFAULT NULL,
                control_total BIGINT DEFAULT NULL,
                closed_at DATETIME DEFAULT NULL,
                closed_why VARCHAR(255) NOT NULL DEFAULT '',
                created_by_id INT NOT NULL,
                created_at DATETIME NOT NULL,
                INDEX company_idx (company_id, closed_at),
                FOREIGN KEY (company_id) REFERENCES company (id),
                FOREIGN KEY (bank_account_id) REFERENCES bank_account (id),
                FOREIGN KEY (created_by_id) REFERENCES app_user (id)
            ) DEFAULT CHARACTER SET utf8mb4 COLLATE utf8mb4_unicode_ci ENGINE = InnoDB
            SQL
            ,
        );
        $this->addSql(
            <<<'SQL'
            ALTER TABLE document
                ADD receipt_batch_id INT DEFAULT NULL,
                ADD CONSTRAINT document_receipt_batch FOREIGN KEY (receipt_batch_id) REFERENCES receipt_batch (id)
            SQL
            ,
        );
    }

    public function down(Schema $schema): void
    {
        $this->addSql('ALTER TABLE document DROP FOREIGN KEY document_receipt_batch, DROP receipt_batch_id');
        $this->addSql('DROP TABLE receipt_batch');
    }
}
