<?php

declare(strict_types=1);

namespace Nelbix\Migrations;

use Doctrine\DBAL\Schema\Schema;
use Doctrine\Migrations\AbstractMigration;

/** Long files of whatever is posted go in parts: a lot holds documents, settlements, entries or deliveries, of a side or of both. */
final class Version20261127000011 extends AbstractMigration
{
    public function getDescription(): string
    {
        return 'Lots of settlements, entries and deliveries';
    }

    public function up(Schema $schema): void
    {
        $this->addSql(
            "ALTER TABLE posting_lot MODIFY side VARCHAR(12) DEFAULT NULL, ADD holds VARCHAR(12) NOT NULL DEFAULT 'documents', ".
                'ADD approved TINYINT(1) NOT NULL DEFAULT 0',
        );
        $this->addSql(
            <<<'SQL'
            CREATE TABLE posting_lot_record (
                lot_id INT NOT NULL,
                record_id INT NOT NULL,
                taken_back TINYINT(1) NOT NULL DEFAULT 0,
                PRIMARY KEY (lot_id, record_id),
                INDEX record_idx (record_id, lot_id),
                CONSTRAINT posting_lot_record_lot FOREIGN KEY (lot_id) REFERENCES posting_lot (id)
            )
            SQL
            ,
        );
    }

    public function down(Schema $schema): void
    {
        $this->addSql('DROP TABLE posting_lot_record');
        $this->addSql('DELETE FROM posting_lot WHERE side IS NULL');
        $this->addSql('ALTER TABLE posting_lot DROP holds, DROP approved, MODIFY side VARCHAR(12) NOT NULL');
    }
}
