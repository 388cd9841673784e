<?php

declare(strict_types=1);

namespace Nelbix\Migrations;

use Doctrine\DBAL\Schema\Schema;
use Doctrine\Migrations\AbstractMigration;

/** A bank file that has not gone to the bank can be withdrawn. */
final class Version20261127000009 extends AbstractMigration
{
    public function getDescription(): string
    {
        return 'Bank files that are withdrawn';
    }

    public function up(Schema $schema): void
    {
        $this->addSql(
            <<<'SQL'
            ALTER TABLE bank_file
                ADD withdrawn_at DATETIME DEFAULT NULL,
                ADD withdrawn_by_id INT DEFAULT NULL,
                ADD CONSTRAINT bank_file_withdrawn_by FOREIGN KEY (withdrawn_by_id) REFERENCES app_user (id)
            SQL
            ,
        );
    }

    public function down(Schema $schema): void
    {
        $this->addSql(
            'ALTER TABLE bank_file DROP FOREIGN KEY bank_file_withdrawn_by, DROP withdrawn_at, DROP withdrawn_by_id',
        );
    }
}
