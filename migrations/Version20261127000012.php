<?php

declare(strict_types=1);

namespace Nelbix\Migrations;

use Doctrine\DBAL\Schema\Schema;
use Doctrine\Migrations\AbstractMigration;

/** Whether an entry by hand looks like one that is there is read along an index: it looked through all entries there are. */
final class Version20261127000012 extends AbstractMigration
{
    public function getDescription(): string
    {
        return 'Look-alikes of entries by hand along an index';
    }

    public function up(Schema $schema): void
    {
        $this->addSql(
            'ALTER TABLE journal_entry ADD INDEX alike_idx (company_id, posting_date, source_kind, text(40))',
        );
    }

    public function down(Schema $schema): void
    {
        $this->addSql('ALTER TABLE journal_entry DROP INDEX alike_idx');
    }
}
