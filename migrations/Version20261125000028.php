<?php

declare(strict_types=1);

namespace Nelbix\Migrations;

use Doctrine\DBAL\Schema\Schema;
use Doctrine\Migrations\AbstractMigration;

/** A company of one's own: the first month of its year, the day of its take-over, its first steps; and who came first. */
final class Version20261125000028 extends AbstractMigration
{
    public function getDescription(): string
    {
        return 'A company of one’s own';
    }

    public function up(Schema $schema): void
    {
        $this->addSql(
            <<<'SQL'
            ALTER TABLE company
                ADD first_month SMALLINT DEFAULT 1 NOT NULL,
                ADD opening_day DATE DEFAULT NULL,
                ADD first_steps VARCHAR(120) DEFAULT NULL
            SQL
            ,
        );
        // one row, made with the first person: of two at once one is refused
        $this->addSql('CREATE TABLE installation (id TINYINT NOT NULL, begun_at DATETIME NOT NULL, PRIMARY KEY (id))');
    }
}
