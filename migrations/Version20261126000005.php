<?php

declare(strict_types=1);

namespace Nelbix\Migrations;

use Doctrine\DBAL\Schema\Schema;
use Doctrine\Migrations\AbstractMigration;

/** A note stands on a document or on a party. */
final class Version20261126000005 extends AbstractMigration
{
    public function getDescription(): string
    {
        return 'Notes on parties';
    }

    public function up(Schema $schema): void
    {
        $this->addSql(
            <<<'SQL'
            ALTER TABLE note MODIFY document_id INT DEFAULT NULL, ADD party_id INT DEFAULT NULL AFTER document_id,
                ADD INDEX party_idx (party_id), ADD FOREIGN KEY (party_id) REFERENCES party (id)
            SQL
            ,
        );
    }
}
