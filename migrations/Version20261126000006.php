<?php

declare(strict_types=1);

namespace Nelbix\Migrations;

use Doctrine\DBAL\Schema\Schema;
use Doctrine\Migrations\AbstractMigration;

/** Entries that bypass the party ledgers are found at once. */
final class Version20261126000006 extends AbstractMigration
{
    public function getDescription(): string
    {
        return 'Index of manual entries on control accounts';
    }

    public function up(Schema $schema): void
    {
        $this->addSql(
            <<<'SQL'
            ALTER TABLE journal_entry ADD INDEX bypass_idx (company_id, bypass)
            SQL
            ,
        );
    }
}
