<?php

declare(strict_types=1);

namespace Nelbix\Migrations;

use Doctrine\DBAL\Schema\Schema;
use Doctrine\Migrations\AbstractMigration;

/** What a finance charge was worked out from is kept with it: the rate of then, and each span of days with what was open in it. */
final class Version20261202000004 extends AbstractMigration
{
    public function getDescription(): string
    {
        return 'Rate, days and amounts that a finance charge came from';
    }

    public function up(Schema $schema): void
    {
        $this->addSql('ALTER TABLE late_charge ADD worked JSON DEFAULT NULL');
    }

    public function down(Schema $schema): void
    {
        $this->addSql('ALTER TABLE late_charge DROP worked');
    }
}
