<?php

declare(strict_types=1);

namespace Nelbix\Migrations;

use Doctrine\DBAL\Schema\Schema;
use Doctrine\Migrations\AbstractMigration;

/** A group that a company puts its parties into, such as "materials": payment runs can be asked for one, and for several methods. */
final class Version20261124000018 extends AbstractMigration
{
    public function getDescription(): string
    {
        return 'Groups of parties';
    }

    public function up(Schema $schema): void
    {
        $this->addSql('ALTER TABLE proposal MODIFY method VARCHAR(30) NOT NULL');
        $this->addSql("ALTER TABLE party ADD party_group VARCHAR(30) NOT NULL DEFAULT ''");
    }

    public function isTransactional(): bool
    {
        return false;
    }
}
