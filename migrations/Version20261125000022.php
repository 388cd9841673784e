<?php

declare(strict_types=1);

namespace Nelbix\Migrations;

use Doctrine\DBAL\Schema\Schema;
use Doctrine\Migrations\AbstractMigration;

/** Which fields of a document were typed and not worked out, so that putting it right carries those and no others. */
final class Version20261125000022 extends AbstractMigration
{
    public function getDescription(): string
    {
        return 'What was typed on a document';
    }

    public function up(Schema $schema): void
    {
        $this->addSql('ALTER TABLE document ADD typed LONGTEXT DEFAULT NULL');
        $this->addSql('ALTER TABLE proposal_line MODIFY reason VARCHAR(30) NOT NULL');
    }

    public function isTransactional(): bool
    {
        return false;
    }
}
