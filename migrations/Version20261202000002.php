<?php

declare(strict_types=1);

namespace Nelbix\Migrations;

use Doctrine\DBAL\Schema\Schema;
use Doctrine\Migrations\AbstractMigration;

/** Which write-off a recovery is of: its tax is owed again, and the write-off stands while the recovery does. */
final class Version20261202000002 extends AbstractMigration
{
    public function getDescription(): string
    {
        return 'Which write-off a recovery is of';
    }

    public function up(Schema $schema): void
    {
        $this->addSql(
            'ALTER TABLE settlement_adjustment ADD recovers_id INT DEFAULT NULL, ADD INDEX recovers_idx (recovers_id)',
        );
    }

    public function down(Schema $schema): void
    {
        $this->addSql('ALTER TABLE settlement_adjustment DROP INDEX recovers_idx, DROP recovers_id');
    }
}
