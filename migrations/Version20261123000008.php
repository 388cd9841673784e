<?php

declare(strict_types=1);

namespace Nelbix\Migrations;

use Doctrine\DBAL\Schema\Schema;
use Doctrine\Migrations\AbstractMigration;

/** What an electronic invoice says of its seller. */
final class Version20261123000008 extends AbstractMigration
{
    public function getDescription(): string
    {
        return 'City, country and tax number of a company';
    }

    public function up(Schema $schema): void
    {
        $this->addSql(
            <<<SQL
            ALTER TABLE company ADD city VARCHAR(120) NOT NULL DEFAULT '', ADD country VARCHAR(2) NOT NULL DEFAULT '',
                ADD tax_number VARCHAR(40) NOT NULL DEFAULT ''
            SQL
            ,
        );
    }

    public function isTransactional(): bool
    {
        return false;
    }
}
