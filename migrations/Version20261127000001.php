<?php

declare(strict_types=1);

namespace Nelbix\Migrations;

use Doctrine\DBAL\Schema\Schema;
use Doctrine\Migrations\AbstractMigration;

/** What a person asks a list for again and again has a name. */
final class Version20261127000001 extends AbstractMigration
{
    public function getDescription(): string
    {
        return 'Kept views of lists';
    }

    public function up(Schema $schema): void
    {
        $this->addSql(
            <<<'SQL'
            CREATE TABLE kept_view (
                company_id INT NOT NULL,
                user_id INT NOT NULL,
                list VARCHAR(30) NOT NULL,
                name VARCHAR(40) NOT NULL,
                asked JSON NOT NULL,
                PRIMARY KEY (company_id, user_id, list, name)
            ) DEFAULT CHARACTER SET utf8mb4 COLLATE utf8mb4_unicode_ci ENGINE = InnoDB
            SQL
            ,
        );
    }

    public function down(Schema $schema): void
    {
        $this->addSql('DROP TABLE kept_view');
    }
}
