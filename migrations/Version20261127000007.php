<?php

declare(strict_types=1);

namespace Nelbix\Migrations;

use Doctrine\DBAL\Schema\Schema;
use Doctrine\Migrations\AbstractMigration;

/** Long files are posted in parts, under a lot that is released when all of it is there. */
final class Version20261127000007 extends AbstractMigration
{
    public function getDescription(): string
    {
        return 'Lots of documents';
    }

    public function up(Schema $schema): void
    {
        $this->addSql(
            <<<'SQL'
            CREATE TABLE posting_lot (
                id INT AUTO_INCREMENT NOT NULL,
                company_id INT NOT NULL,
                side VARCHAR(12) NOT NULL,
                kind VARCHAR(30) NOT NULL,
                name VARCHAR(200) NOT NULL,
                file_id INT NOT NULL,
                taken_id INT NOT NULL,
                records INT NOT NULL,
                posted INT NOT NULL DEFAULT 0,
                state VARCHAR(12) NOT NULL,
                reason VARCHAR(255) NOT NULL DEFAULT '',
                created_by_id INT NOT NULL,
                created_at DATETIME NOT NULL,
                ended_at DATETIME DEFAULT NULL,
                PRIMARY KEY (id),
                INDEX open_idx (company_id, ended_at),
                INDEX file_idx (file_id),
                CONSTRAINT posting_lot_company FOREIGN KEY (company_id) REFERENCES company (id),
                CONSTRAINT posting_lot_by FOREIGN KEY (created_by_id) REFERENCES app_user (id)
            )
            SQL
            ,
        );
        $this->addSql('ALTER TABLE document ADD lot_id INT DEFAULT NULL');
        $this->addSql(
            'ALTER TABLE document ADD INDEX lot_idx (lot_id), ADD CONSTRAINT document_lot FOREIGN KEY (lot_id) REFERENCES posting_lot (id)',
        );
    }

    public function down(Schema $schema): void
    {
        $this->addSql('ALTER TABLE document DROP FOREIGN KEY document_lot, DROP INDEX lot_idx, DROP lot_id');
        $this->addSql('DROP TABLE posting_lot');
    }
}
