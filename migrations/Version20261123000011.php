<?php

declare(strict_types=1);

namespace Nelbix\Migrations;

use Doctrine\DBAL\Schema\Schema;
use Doctrine\Migrations\AbstractMigration;

/** Allowances and charges as kinds of line; who sold it. */
final class Version20261123000011 extends AbstractMigration
{
    public function getDescription(): string
    {
        return 'Kind of line, salesperson and commission';
    }

    public function up(Schema $schema): void
    {
        $this->addSql("ALTER TABLE document_line ADD kind VARCHAR(10) NOT NULL DEFAULT 'line'");
        $this->addSql(
            "ALTER TABLE document ADD salesperson VARCHAR(80) NOT NULL DEFAULT '', ADD commission_percent DECIMAL(7,4) NULL",
        );
    }

    public function isTransactional(): bool
    {
        return false;
    }
}
