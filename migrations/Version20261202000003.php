<?php

declare(strict_types=1);

namespace Nelbix\Migrations;

use Doctrine\DBAL\Schema\Schema;
use Doctrine\Migrations\AbstractMigration;

/** Tries are counted in a table of our own, each in one statement, before they are judged. */
final class Version20261202000003 extends AbstractMigration
{
    public function getDescription(): string
    {
        return 'Tries at signing in, counted one by one';
    }

    public function up(Schema $schema): void
    {
        $this->addSql(
            <<<'SQL'
            CREATE TABLE attempt (
                id BINARY(32) NOT NULL,
                n INT NOT NULL,
                until_at INT UNSIGNED NOT NULL,
                INDEX until_idx (until_at),
                PRIMARY KEY (id)
            ) DEFAULT CHARACTER SET utf8mb4 COLLATE utf8mb4_unicode_ci ENGINE = InnoDB
            SQL
            ,
        );
    }

    public function down(Schema $schema): void
    {
        $this->addSql('DROP TABLE attempt');
    }
}
