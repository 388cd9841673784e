<?php

declare(strict_types=1);

namespace Nelbix\Migrations;

use Doctrine\DBAL\Schema\Schema;
use Doctrine\Migrations\AbstractMigration;

/** Each company has a time zone, whose calendar says which day it is for its books. */
final class Version20261125000024 extends AbstractMigration
{
    public function getDescription(): string
    {
        return 'Time zone of a company';
    }

    public function up(Schema $schema): void
    {
        $this->addSql("ALTER TABLE company ADD time_zone VARCHAR(40) NOT NULL DEFAULT 'UTC'");
    }

    public function isTransactional(): bool
    {
        return false;
    }
}
