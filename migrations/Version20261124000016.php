<?php

declare(strict_types=1);

namespace Nelbix\Migrations;

use Doctrine\DBAL\Schema\Schema;
use Doctrine\Migrations\AbstractMigration;

/**
 * The lines and checks of one payment of a run are found by its number; no other index begins with the run, so that none is taken by
 * mistake.
 */
final class Version20261124000016 extends AbstractMigration
{
    public function getDescription(): string
    {
        return 'Indexes for the payments of a run';
    }

    public function up(Schema $schema): void
    {
        $this->addSql(
            <<<'SQL'
            ALTER TABLE proposal_line MODIFY payment INT NULL, ADD INDEX payment_idx (proposal_id, payment),
                ADD UNIQUE item_idx (item_id, proposal_id), DROP INDEX proposal_id, DROP INDEX item_id
            SQL
            ,
        );
        $this->addSql(
            'ALTER TABLE bank_check MODIFY payment INT NULL, ADD INDEX payment_idx (proposal_id, payment), DROP INDEX proposal_id',
        );
    }

    public function isTransactional(): bool
    {
        return false;
    }
}
