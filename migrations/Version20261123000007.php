<?php

declare(strict_types=1);

namespace Nelbix\Migrations;

use Doctrine\DBAL\Schema\Schema;
use Doctrine\Migrations\AbstractMigration;

/** Quantity and price of a line, where they were given. */
final class Version20261123000007 extends AbstractMigration
{
    public function getDescription(): string
    {
        return 'Quantity and price on lines';
    }

    public function up(Schema $schema): void
    {
        $this->addSql('ALTER TABLE document_line ADD quantity DECIMAL(15,4) NULL, ADD price DECIMAL(17,6) NULL');
    }

    public function isTransactional(): bool
    {
        return false;
    }
}
