<?php

declare(strict_types=1);

namespace Nelbix\Migrations;

use Doctrine\DBAL\Schema\Schema;
use Doctrine\Migrations\AbstractMigration;

/** A control account is signed off as of a day: what was seen is copied, item by item, and is never changed. */
final class Version20261127000002 extends AbstractMigration
{
    public function getDescription(): string
    {
        return 'Tie-outs signed off';
    }

    public function up(Schema $schema): void
    {
        $end = ') DEFAULT CHARACTER SET utf8mb4 COLLATE utf8mb4_unicode_ci ENGINE = InnoDB';
        $this->addSql(
            <<<SQL
            CREATE TABLE sign_off (
                id INT AUTO_INCREMENT PRIMARY KEY,
                company_id INT NOT NULL,
                account_id INT NOT NULL,
                as_of DATE NOT NULL,
                normal_sign TINYINT NOT NULL,
                ledger BIGINT NOT NULL,
                items BIGINT NOT NULL,
                item_count INT NOT NULL,
                explained_by JSON NOT NULL,
                digest CHAR(64) NOT NULL,
                note VARCHAR(255) NOT NULL,
                last_entry_id INT NOT NULL,
                signed_by_id INT NOT NULL,
                signed_at DATETIME NOT NULL,
                UNIQUE INDEX day_idx (account_id, as_of),
                INDEX company_idx (company_id, as_of),
                FOREIGN KEY (company_id) REFERENCES company (id),
                FOREIGN KEY (account_id) REFERENCES account (id),
                FOREIGN KEY (signed_by_id) REFERENCES app_user (id)
            $end
            SQL
            ,
        );
        $this->addSql(
            <<<SQL
            CREATE TABLE sign_off_item (
                id BIGINT AUTO_INCREMENT PRIMARY KEY,
                sign_off_id INT NOT NULL,
                number VARCHAR(34) NOT NULL,
                their_number VARCHAR(60) NOT NULL,
                kind VARCHAR(15) NOT NULL,
                party VARCHAR(20) NOT NULL,
                party_name VARCHAR(160) NOT NULL,
                due_date DATE DEFAULT NULL,
                currency VARCHAR(3) NOT NULL,
                open BIGINT NOT NULL,
                base BIGINT NOT NULL,
                INDEX page_idx (sign_off_id, id),
                FOREIGN KEY (sign_off_id) REFERENCES sign_off (id)
            $end
            SQL
            ,
        );
    }

    public function down(Schema $schema): void
    {
        $this->addSql('DROP TABLE sign_off_item');
        $this->addSql('DROP TABLE sign_off');
    }
}
