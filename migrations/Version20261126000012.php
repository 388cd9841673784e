<?php

declare(strict_types=1);

namespace Nelbix\Migrations;

use Doctrine\DBAL\Schema\Schema;
use Doctrine\Migrations\AbstractMigration;

/** What goes out to a party is in its language. */
final class Version20261126000012 extends AbstractMigration
{
    public function getDescription(): string
    {
        return 'Language of a party';
    }

    public function up(Schema $schema): void
    {
        $this->addSql("ALTER TABLE party ADD language VARCHAR(2) NOT NULL DEFAULT 'en'");
    }

    public function down(Schema $schema): void
    {
        $this->addSql('ALTER TABLE party DROP language');
    }
}
