<?php

declare(strict_types=1);

namespace Nelbix\Migrations;

use Doctrine\DBAL\Schema\Schema;
use Doctrine\Migrations\AbstractMigration;

/** Checks and cash stand on an account of their own until a deposit slip takes them to the bank. */
final class Version20261126000011 extends AbstractMigration
{
    public function getDescription(): string
    {
        return 'Money on hand and deposit slips';
    }

    public function up(Schema $schema): void
    {
        // an account that was meant for it from the first, unless somebody has used it for something else by now
        $this->addSql(
            <<<'SQL'
            UPDATE account a
            SET a.role = 'money_on_hand'
            WHERE a.number = '1050' AND a.name = 'Money on hand' AND a.role IS NULL
                AND NOT EXISTS (SELECT 1 FROM journal_line l WHERE l.account_id = a.id)
            SQL
            ,
        );
        $this->addSql(
            <<<'SQL'
            ALTER TABLE document
                ADD on_hand_account_id INT DEFAULT NULL,
                ADD CONSTRAINT document_on_hand FOREIGN KEY (on_hand_account_id) REFERENCES account (id),
                ADD INDEX on_hand_idx (on_hand_account_id, posting_date)
            SQL
            ,
        );
        $this->addSql(
            <<<'SQL'
            CREATE TABLE deposit_slip (
                id INT AUTO_INCREMENT PRIMARY KEY,
                company_id INT NOT NULL,
                bank_account_id INT NOT NULL,
                account_id INT NOT NULL,
                number VARCHAR(30) DEFAULT NULL,
                deposited_on DATE NOT NULL,
                amount BIGINT NOT NULL,
                amount_base BIGINT NOT NULL,
                reversed_on DATE DEFAULT NULL,
                reversed_by_id INT DEFAULT NULL,
                reason VARCHAR(255) NOT NULL DEFAULT '',
                created_by_id INT NOT NULL,
                created_at DATETIME NOT NULL,
                UNIQUE INDEX number_uniq (company_id, number),
                INDEX account_idx (account_id, deposited_on),
                FOREIGN KEY (company_id) REFERENCES company (id),
                FOREIGN KEY (bank_account_id) REFERENCES bank_account (id),
                FOREIGN KEY (account_id) REFERENCES account (id),
                FOREIGN KEY (reversed_by_id) REFERENCES app_user (id),
                FOREIGN KEY (created_by_id) REFERENCES app_user (id)
            ) DEFAULT CHARACTER SET utf8mb4 COLLATE utf8mb4_unicode_ci ENGINE = InnoDB
            SQL
            ,
        );
        $this->addSql(
            <<<'SQL'
            CREATE TABLE deposit_line (
                id INT AUTO_INCREMENT PRIMARY KEY,
                slip_id INT NOT NULL,
                document_id INT NOT NULL,
                amount BIGINT NOT NULL,
                amount_base BIGINT NOT NULL,
                returned_on DATE DEFAULT NULL,
                INDEX document_idx (document_id),
                FOREIGN KEY (slip_id) REFERENCES deposit_slip (id),
                FOREIGN KEY (document_id) REFERENCES document (id)
            ) DEFAULT CHARACTER SET utf8mb4 COLLATE utf8mb4_unicode_ci ENGINE = InnoDB
            SQL
            ,
        );
    }

    public function down(Schema $schema): void
    {
        $this->addSql('DROP TABLE deposit_line');
        $this->addSql('DROP TABLE deposit_slip');
        $this->addSql(
            'ALTER TABLE document DROP FOREIGN KEY document_on_hand, DROP INDEX on_hand_idx, DROP on_hand_account_id',
        );
    }
}
