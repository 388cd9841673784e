<?php

declare(strict_types=1);

namespace Nelbix\Migrations;

use Doctrine\DBAL\Schema\Schema;
use Doctrine\Migrations\AbstractMigration;

/** The history of a company is read from its newest line on. */
final class Version20261127000006 extends AbstractMigration
{
    public function getDescription(): string
    {
        return 'History as a list';
    }

    public function up(Schema $schema): void
    {
        $this->addSql('CREATE INDEX list_idx ON history (company_id, id)');
    }

    public function down(Schema $schema): void
    {
        $this->addSql('DROP INDEX list_idx ON history');
    }
}
