<?php

declare(strict_types=1);

namespace Nelbix\Migrations;

use Doctrine\DBAL\Schema\Schema;
use Doctrine\Migrations\AbstractMigration;

/** Recurring documents can be changed: their days count anew from then on, and two people do not overwrite each other. */
final class Version20261126000004 extends AbstractMigration
{
    public function getDescription(): string
    {
        return 'Recurring documents are changed';
    }

    public function up(Schema $schema): void
    {
        $this->addSql(
            'ALTER TABLE recurring ADD made_before SMALLINT NOT NULL DEFAULT 0 AFTER made, ADD version INT NOT NULL DEFAULT 1',
        );
    }
}
