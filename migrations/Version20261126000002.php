<?php

declare(strict_types=1);

namespace Nelbix\Migrations;

use Doctrine\DBAL\Schema\Schema;
use Doctrine\Migrations\AbstractMigration;

/** What was typed belongs to the key of a form; of those that were sent before nobody knows any more. */
final class Version20261126000002 extends AbstractMigration
{
    public function getDescription(): string
    {
        return 'Forms once, bound to what was typed';
    }

    public function up(Schema $schema): void
    {
        $this->addSql('ALTER TABLE done_once ADD content CHAR(64) CHARACTER SET ascii DEFAULT NULL AFTER form_key');
    }
}
