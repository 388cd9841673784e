<?php

declare(strict_types=1);

namespace Nelbix\Migrations;

use Doctrine\DBAL\Schema\Schema;
use Doctrine\Migrations\AbstractMigration;

/** Pages of papers are drawn once, by the worker, and kept with what became of them. */
final class Version20261125000031 extends AbstractMigration
{
    public function getDescription(): string
    {
        return 'Pictures of pages';
    }

    public function up(Schema $schema): void
    {
        $this->addSql(
            <<<'SQL'
            CREATE TABLE page_image (
                sha256 CHAR(64) CHARACTER SET ascii NOT NULL, page SMALLINT NOT NULL, png LONGBLOB DEFAULT NULL,
                PRIMARY KEY (sha256, page)
            )
            SQL
            ,
        );
        $this->addSql(
            'ALTER TABLE stored_file ADD to_draw_from DATETIME DEFAULT NULL, ADD INDEX to_draw (to_draw_from)',
        );
        $this->addSql("UPDATE stored_file SET to_draw_from = created_at WHERE subject = 'paper' AND pages > 0");
    }
}
