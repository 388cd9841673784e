<?php

declare(strict_types=1);

namespace Nelbix\Migrations;

use Doctrine\DBAL\Schema\Schema;
use Doctrine\Migrations\AbstractMigration;

/** Old history is packed, by which records it speaks of; drawn pages know when they were drawn, to be drawn anew when somebody looks. */
final class Version20261127000008 extends AbstractMigration
{
    public function getDescription(): string
    {
        return 'Packed history';
    }

    public function up(Schema $schema): void
    {
        $this->addSql(
            <<<'SQL'
            CREATE TABLE history_pack (
                id INT AUTO_INCREMENT NOT NULL,
                company_id INT NOT NULL,
                first_id BIGINT NOT NULL,
                last_id BIGINT NOT NULL,
                first_at DATETIME NOT NULL,
                last_at DATETIME NOT NULL,
                entries INT NOT NULL,
                content MEDIUMBLOB NOT NULL,
                PRIMARY KEY (id),
                INDEX ids_idx (last_id, first_id),
                CONSTRAINT history_pack_company FOREIGN KEY (company_id) REFERENCES company (id)
            )
            SQL
            ,
        );
        $this->addSql(
            <<<'SQL'
            CREATE TABLE history_packed (
                company_id INT NOT NULL,
                subject VARCHAR(30) NOT NULL,
                subject_id INT NOT NULL,
                pack_id INT NOT NULL,
                PRIMARY KEY (company_id, subject, subject_id, pack_id),
                INDEX pack_idx (pack_id),
                CONSTRAINT history_packed_pack FOREIGN KEY (pack_id) REFERENCES history_pack (id)
            )
            SQL
            ,
        );
        $this->addSql(
            'ALTER TABLE page_image ADD drawn_at DATETIME NOT NULL DEFAULT UTC_TIMESTAMP(), ADD INDEX drawn_idx (drawn_at)',
        );
    }

    public function down(Schema $schema): void
    {
        $this->addSql('ALTER TABLE page_image DROP INDEX drawn_idx, DROP drawn_at');
        $this->addSql('DROP TABLE history_packed');
        $this->addSql('DROP TABLE history_pack');
    }
}
