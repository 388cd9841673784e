<?php

declare(strict_types=1);

namespace Nelbix\Migrations;

use Doctrine\DBAL\Schema\Schema;
use Doctrine\Migrations\AbstractMigration;

/** A check that is printed without a proposal keeps the name and address that stand on it. */
final class Version20261126000003 extends AbstractMigration
{
    public function getDescription(): string
    {
        return 'Payee of a check printed on its own';
    }

    public function up(Schema $schema): void
    {
        $this->addSql('ALTER TABLE bank_check ADD payee VARCHAR(700) DEFAULT NULL');
    }
}
